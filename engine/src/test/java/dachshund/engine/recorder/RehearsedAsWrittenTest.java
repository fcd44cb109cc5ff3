package dachshund.engine.recorder;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.mock;

import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.layout.BadQuality;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Reshape;
import dachshund.core.layout.Shape;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.rehearse.Rehearsal;
import dachshund.core.row.Made;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.when.Condition;
import dachshund.core.when.Deadband;
import dachshund.core.when.When;
import dachshund.engine.FakeClock;
import dachshund.engine.count.CounterBook;
import dachshund.engine.lane.DestinationWriter;
import dachshund.engine.lane.LaneDesign;
import dachshund.engine.local.LocalStore;
import dachshund.engine.said.Said;
import dachshund.engine.tag.TagTable;
import dachshund.engine.when.ActionPool;
import dachshund.engine.when.Schedule;
import java.nio.file.Path;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.concurrent.atomic.AtomicLong;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/**
 * The promise of a rehearsal: over the same values it makes the rows that the recorder writes. The recorder runs through the engine
 * on a clock that is moved by hand; the rehearsal gets what its tags were; both have to agree cell by cell, for every kind of When.
 */
class RehearsedAsWrittenTest {

    private static final TagRef LEVEL = new TagRef("s", "level");
    private static final TagRef STATE = new TagRef("s", "state");
    private static final TagRef LOT = new TagRef("s", "lot");
    private static final Plant PLANT = new Plant("Quillmoor", ZoneId.of("Europe/London"), List.of());
    private static final Condition RUNS = new Condition("state = 1", Map.of("state", STATE));

    @TempDir
    Path folder;

    /** What fires, one of each kind and some together. */
    enum Kind {
        EVERY(new When.Every(Duration.ofMillis(700))),
        EVERY_FROM_START(new When.Every(Duration.ofSeconds(3), true)),
        CHANGE(new When.OnChange(Deadband.NONE, List.of(), Duration.ZERO, Duration.ZERO)),
        DEADBAND(new When.OnChange(
                new Deadband(Deadband.Kind.ABSOLUTE, 4),
                List.of(LEVEL),
                Duration.ofMillis(800),
                Duration.ofSeconds(5))),
        TIMES(new When.AtTimes(
                Set.of(DayOfWeek.values()),
                List.of(LocalTime.of(6, 1), LocalTime.of(6, 3, 30)),
                false,
                When.Missed.RUN_LATE)),
        CRON(new When.ByCron("*/1 * * * *", true, When.Missed.SKIP)),
        RISING(new When.OnCondition(RUNS, When.Edge.RISING, Duration.ZERO, Duration.ZERO)),
        BOTH_EDGES(new When.OnCondition(RUNS, When.Edge.BOTH, Duration.ofMillis(600), Duration.ofSeconds(2))),
        IDENTIFIER(new When.OnIdentifier(LOT, Duration.ofMillis(500), Duration.ofSeconds(1))),
        WHILE(new When.WhileTrue(RUNS, Duration.ofMillis(400))),
        SEVERAL(
                new When.Every(Duration.ofSeconds(2)),
                new When.OnIdentifier(LOT, Duration.ZERO, Duration.ZERO),
                new When.OnCondition(RUNS, When.Edge.FALLING, Duration.ZERO, Duration.ZERO));

        private final List<When> whens;

        Kind(When... whens) {
            this.whens = List.of(whens);
        }
    }

    private static Layout layout(Shape shape) {
        Layout columns = Layout.proposed()
                .plus(new Column(
                        "level",
                        SqlType.decimal(8, 1),
                        new ColumnSource.FromTag(LEVEL, ColumnSource.Aspect.VALUE),
                        false,
                        BadQuality.LAST_GOOD))
                .plus(new Column(
                        "state",
                        SqlType.INTEGER,
                        new ColumnSource.FromTag(STATE, ColumnSource.Aspect.VALUE),
                        false,
                        BadQuality.WRITE_NULL))
                .plus(new Column(
                        "level_quality",
                        SqlType.text(60),
                        new ColumnSource.FromTag(LEVEL, ColumnSource.Aspect.QUALITY),
                        false,
                        BadQuality.AS_IS))
                .plus(new Column(
                        "lot",
                        SqlType.text(20),
                        new ColumnSource.FromTag(LOT, ColumnSource.Aspect.VALUE),
                        false,
                        BadQuality.AS_IS))
                .plus(Column.of("shift", SqlType.text(20), new ColumnSource.FromRun(ColumnSource.Variable.SHIFT)));
        return shape == Shape.COLUMN_PER_TAG
                ? columns
                : Reshape.to(
                        columns,
                        shape,
                        tag -> new Reshape.Described(
                                tag.address(), "S1", "", tag.equals(LOT) ? SqlType.text(20) : SqlType.DOUBLE));
    }

    /** Ten minutes of a silo's life, the same for a seed. */
    private static List<TagChange> batch(Random random, double[] level, Instant at) {
        List<TagChange> batch = new ArrayList<>();
        if (random.nextInt(3) > 0) {
            level[0] += random.nextGaussian() * 2;
            batch.add(new TagChange(
                    "level",
                    random.nextInt(12) == 0
                            ? TagValue.good(level[0], at).withQuality(Quality.AWAY, at)
                            : TagValue.good(level[0], at)));
        }
        if (random.nextInt(4) == 0) {
            batch.add(new TagChange("state", TagValue.good((long) random.nextInt(3), at)));
        }
        if (random.nextInt(9) == 0) {
            batch.add(new TagChange("lot", TagValue.good("PL1-" + random.nextInt(4), at)));
        }
        return batch;
    }

    private static List<Object> told(Row row, int rowId) {
        List<Object> cells = new ArrayList<>(Arrays.asList(row.cells()));
        if (rowId >= 0) {
            cells.remove(rowId);
        }
        cells.add(0, row.recordTime());
        return cells;
    }

    @ParameterizedTest
    @EnumSource(Kind.class)
    void aRehearsalMakesTheRowsThatTheRecorderWrites(Kind kind) throws Exception {
        int rows = 0;
        for (Shape shape : Shape.values()) {
            for (long seed = 1; seed <= 4; seed++) {
                Optional<Condition> gate = seed % 2 == 0
                        ? Optional.of(new Condition("state <> 2", Map.of("state", STATE)))
                        : Optional.empty();
                RecorderDefinition design = new RecorderDefinition(
                        "aaaaaaaa",
                        "Silo log",
                        "",
                        "",
                        kind.whens,
                        gate,
                        layout(shape),
                        List.of(new Where("dest", "t", Upkeep.NONE, false)),
                        Optional.empty());
                rows += compared(design, seed, folder.resolve(shape + "-" + seed));
            }
        }
        assertThat(rows).as("compared").isGreaterThan(10);
    }

    private int compared(RecorderDefinition design, long seed, Path place) throws Exception {
        FakeClock clock = new FakeClock();
        clock.pass(Duration.ofMillis(137));
        TagTable tags = new TagTable(clock);
        int rowId = design.layout()
                .rowIdColumn()
                .map(column -> design.layout().written().indexOf(column))
                .orElse(-1);
        List<List<Object>> written = new ArrayList<>();
        DestinationWriter writer = mock(DestinationWriter.class);
        doAnswer(call -> written.add(told(call.getArgument(1), rowId)))
                .when(writer)
                .take(any(), any());
        Map<TagRef, List<TagValue>> history = new HashMap<>();
        Random random = new Random(seed);
        double[] level = {50};
        RowId identity = new RowId("000001", "aaaaaaaa", 5, 0, 0);
        try (LocalStore local = new LocalStore(place)) {
            for (TagChange each : List.of(
                    new TagChange("level", TagValue.good(level[0], clock.now())),
                    new TagChange("state", TagValue.good(0L, clock.now())),
                    new TagChange("lot", TagValue.good("PL1-0", clock.now())))) {
                offer(tags, history, List.of(each));
            }
            clock.pass(Duration.ofMillis(1));
            Instant from = clock.now();
            RecorderRun run = new RecorderRun(
                    design,
                    identity,
                    new AtomicLong(),
                    List.of(new RecorderRun.Target(design.wheres().get(0), writer, LaneDesign.of(design))),
                    new RecorderRun.Surroundings(
                            tags,
                            PLANT,
                            new CounterBook(),
                            local,
                            clock,
                            ActionPool.onCaller().strand(),
                            new Said(),
                            stopped -> {}));
            Schedule schedule = new Schedule(clock, () -> {});
            schedule.changeover(Set.of(run.when()));
            for (int step = 0; step < 600; step++) {
                Instant next = clock.now().plusMillis(50 + random.nextInt(900));
                while (run.when().dueAt().isBefore(next)) {
                    clock.pass(Duration.between(clock.now(), run.when().dueAt()));
                    schedule.runDue();
                }
                clock.pass(Duration.between(clock.now(), next));
                offer(tags, history, batch(random, level, next));
                schedule.runDue();
            }
            Rehearsal.Rehearsed rehearsed =
                    Rehearsal.run(design, PLANT, identity, history, from, clock.now(), clock.now(), 100_000);
            List<List<Object>> made = rehearsed.rows().stream()
                    .filter(Made.Whole.class::isInstance)
                    .map(each -> told(((Made.Whole) each).row(), rowId))
                    .toList();
            assertThat(made).as(design.layout().shape() + ", seed " + seed).isEqualTo(written);
            return made.size();
        }
    }

    private static void offer(TagTable tags, Map<TagRef, List<TagValue>> history, List<TagChange> batch) {
        batch.forEach(change -> history.computeIfAbsent(new TagRef("s", change.address()), tag -> new ArrayList<>())
                .add(change.value()));
        tags.offer("s", batch);
    }
}
