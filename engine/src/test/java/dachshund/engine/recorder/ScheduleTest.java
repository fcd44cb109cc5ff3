package dachshund.engine.recorder;

import static dachshund.engine.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.Batching;
import dachshund.core.layout.BadQuality;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.row.RowId;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.when.Deadband;
import dachshund.core.when.When;
import dachshund.engine.FakeClock;
import dachshund.engine.count.CounterBook;
import dachshund.engine.count.CounterBook.Minute;
import dachshund.engine.journal.Journal;
import dachshund.engine.journal.Offered;
import dachshund.engine.journal.RowCodec;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.lane.Account;
import dachshund.engine.lane.DestinationWriter;
import dachshund.engine.lane.LaneDesign;
import dachshund.engine.local.LocalStore;
import dachshund.engine.said.Said;
import dachshund.engine.tag.TagTable;
import dachshund.engine.when.ActionPool;
import dachshund.engine.when.Schedule;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicLong;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mockito.Mockito;

class ScheduleTest {

    @TempDir
    Path folder;

    private final FakeClock clock = new FakeClock();
    private final TagTable tags = new TagTable(clock);
    private final CounterBook book = new CounterBook();
    private final List<RecorderRun> stopped = new ArrayList<>();
    private final Schedule schedule = new Schedule(clock, () -> {});
    private final ActionPool pool = ActionPool.onCaller();
    private final AtomicLong sequence = new AtomicLong();
    private LocalStore local;
    private DestinationWriter writer;
    private SegmentJournal journal;

    @BeforeEach
    void open() {
        openWith(new LocalStore(folder.resolve("local.db")));
    }

    private void openWith(LocalStore store) {
        local = store;
        journal = new SegmentJournal(
                folder.resolve("journal"),
                new SegmentJournal.Limits(1 << 30, 0, 1 << 20, 1),
                "000001",
                SegmentJournal.Known.NOTHING,
                () -> {});
        writer = new DestinationWriter(
                "dest",
                "Records",
                journal,
                new Offered(folder.resolve("offered")),
                Mockito.mock(dachshund.core.destination.RowStore.class),
                Batching.AT_ONCE,
                local,
                book,
                clock);
    }

    private RecorderRun.Surroundings surroundings(String site) {
        return new RecorderRun.Surroundings(
                tags,
                new Plant(site, ZoneOffset.UTC, List.of()),
                book,
                local,
                clock,
                pool.strand(),
                new Said(),
                run -> {
                    schedule.remove(run.when());
                    stopped.add(run);
                });
    }

    private void changeover(RecorderRun... runs) {
        schedule.changeover(java.util.Arrays.stream(runs).map(RecorderRun::when).toList());
    }

    @AfterEach
    void close() {
        writer.close();
        local.close();
    }

    private RecorderRun run(String id, Duration period, SqlType type) {
        return run(id, type, new When.Every(period));
    }

    private RecorderRun run(String id, SqlType type, When... whens) {
        Layout layout = Layout.proposed()
                .plus(new Column(
                        "v",
                        type,
                        new ColumnSource.FromTag(new TagRef("s", "v"), ColumnSource.Aspect.VALUE),
                        false,
                        BadQuality.WRITE_NULL));
        RecorderDefinition design = new RecorderDefinition(
                id, id, "", List.of(whens), layout, List.of(new Where("dest", "t", Upkeep.NONE, false)));
        return new RecorderRun(
                design,
                new RowId("000001", id, 5, 0, 0),
                sequence,
                List.of(new RecorderRun.Target(design.wheres().get(0), writer, writer.design(design))),
                surroundings("Quillmoor"));
    }

    /** Moves the clock in steps and serves what is due at each. */
    private void passIn(Duration step, int steps) {
        for (int i = 0; i < steps; i++) {
            clock.pass(step);
            schedule.runDue();
        }
    }

    private List<Instant> journalled() {
        writer.waiting();
        List<Instant> times = new ArrayList<>();
        soon(() -> {
            times.clear();
            Journal.Reader reader = journal.read(0);
            for (Journal.Entry entry = reader.next(); entry != null; entry = reader.next()) {
                if (entry.nth() > 0) {
                    times.add(RowCodec.read(entry).row().recordTime());
                }
            }
            return times.size() == writer.waiting();
        });
        return times;
    }

    @Test
    void rowsCarryTheScheduledInstantNotTheOneTheyWereServedAt() {
        changeover(run("aaaaaaaa", Duration.ofSeconds(1), SqlType.DOUBLE));
        passIn(Duration.ofMillis(300), 10);
        assertThat(journalled())
                .containsExactly(
                        Instant.parse("2026-11-24T06:00:01Z"),
                        Instant.parse("2026-11-24T06:00:02Z"),
                        Instant.parse("2026-11-24T06:00:03Z"));
    }

    @Test
    void whatIsDueAndDoesNotComeIsASentenceWhateverTheCause() {
        RecorderRun run = run("aaaaaaaa", Duration.ofSeconds(1), SqlType.DOUBLE);
        changeover(run);
        passIn(Duration.ofSeconds(1), 3);
        assertThat(run.trouble()).isEmpty();
        clock.pass(Duration.ofSeconds(30)); // nobody serves it
        assertThat(run.trouble()).contains("A row was due").contains("ago and has not come");
        schedule.runDue();
        assertThat(run.trouble()).isEmpty();
    }

    @Test
    void ticksMoreThanAPeriodLateAreSkippedAndCounted() {
        changeover(run("aaaaaaaa", Duration.ofSeconds(1), SqlType.DOUBLE));
        passIn(Duration.ofSeconds(1), 2);
        passIn(Duration.ofSeconds(10), 1);
        assertThat(journalled())
                .hasSize(4)
                .endsWith(Instant.parse("2026-11-24T06:00:11Z"), Instant.parse("2026-11-24T06:00:12Z"));
        Minute minute = book.hour("aaaaaaaa", clock.now()).get(59);
        assertThat(minute.due()).isEqualTo(12);
        assertThat(minute.skipped()).isEqualTo(8);
    }

    @Test
    void aChangeoverDropsNoTickOfAnUnchangedRecorderAndNoneOfAChangedOne() {
        RecorderRun unchanged = run("aaaaaaaa", Duration.ofSeconds(1), SqlType.DOUBLE);
        changeover(unchanged, run("bbbbbbbb", Duration.ofSeconds(1), SqlType.DOUBLE));
        for (int i = 0; i < 20; i++) {
            clock.pass(Duration.ofMillis(950));
            changeover(unchanged, run("bbbbbbbb", Duration.ofSeconds(1), i % 2 == 0 ? SqlType.BIGINT : SqlType.DOUBLE));
            schedule.runDue();
        }
        assertThat(book.hour("aaaaaaaa", clock.now()).get(59).due()).isEqualTo(19);
        assertThat(book.hour("bbbbbbbb", clock.now()).get(59).due()).isEqualTo(19);
    }

    @Test
    void aClockSetBackDoesNotSilenceARecorder() {
        changeover(run("aaaaaaaa", Duration.ofSeconds(1), SqlType.DOUBLE));
        passIn(Duration.ofSeconds(1), 5);
        clock.set(Duration.ofHours(-1));
        schedule.runDue();
        passIn(Duration.ofSeconds(1), 5);
        assertThat(journalled()).hasSize(10).endsWith(Instant.parse("2026-11-24T05:00:10Z"));
    }

    private void offer(Object value) {
        tags.offer("s", List.of(new TagChange("v", TagValue.good(value, clock.now()))));
    }

    @Test
    void aChangeWritesAtOnceAndItsPauseIsKeptByTheSchedule() {
        offer(1.0);
        changeover(run(
                "aaaaaaaa",
                SqlType.DOUBLE,
                new When.OnChange(Deadband.NONE, List.of(), Duration.ofSeconds(10), Duration.ZERO)));
        clock.pass(Duration.ofSeconds(1));
        offer(2.0);
        clock.pass(Duration.ofSeconds(1));
        offer(3.0);
        passIn(Duration.ofSeconds(1), 20);
        assertThat(journalled())
                .containsExactly(Instant.parse("2026-11-24T06:00:01Z"), Instant.parse("2026-11-24T06:00:11Z"));
        changeover();
        offer(4.0);
        assertThat(journalled()).as("nobody listens any more").hasSize(2);
    }

    @Test
    void aClockTimeMissedWhileNothingRanIsServedAfterTheRestart() {
        When six = new When.AtTimes(
                java.util.EnumSet.allOf(java.time.DayOfWeek.class),
                List.of(java.time.LocalTime.of(6, 30)),
                true,
                When.Missed.MARK);
        offer(1.0);
        changeover(run("aaaaaaaa", SqlType.DOUBLE, six));
        changeover();
        clock.pass(Duration.ofDays(2));
        changeover(run("aaaaaaaa", SqlType.DOUBLE, six));
        schedule.runDue();
        assertThat(journalled())
                .containsExactly(Instant.parse("2026-11-24T06:30:00Z"), Instant.parse("2026-11-25T06:30:00Z"));
        changeover();
        changeover(run("aaaaaaaa", SqlType.DOUBLE, six));
        schedule.runDue();
        assertThat(journalled()).as("served once").hasSize(2);
    }

    @Test
    void aStandbyTakesRowsOnlyWhileTheFirstIsAway() throws Exception {
        DestinationWriter first = Mockito.mock(DestinationWriter.class);
        DestinationWriter second = Mockito.mock(DestinationWriter.class);
        RecorderDefinition design = new RecorderDefinition(
                "aaaaaaaa", "a", "", List.of(new When.Every(Duration.ofSeconds(1))), Layout.proposed(), List.of());
        RecorderRun run = new RecorderRun(
                design,
                new RowId("000001", "aaaaaaaa", 5, 0, 0),
                sequence,
                List.of(
                        new RecorderRun.Target(new Where("one", "t", Upkeep.NONE, false), first, LaneDesign.of(design)),
                        new RecorderRun.Target(
                                new Where(
                                        "two",
                                        "t",
                                        Upkeep.NONE,
                                        false,
                                        new dachshund.core.destination.WriteMode.Insert(),
                                        "one"),
                                second,
                                LaneDesign.of(design))),
                surroundings(""));
        changeover(run);
        passIn(Duration.ofSeconds(1), 3);
        Mockito.when(first.away()).thenReturn(true);
        passIn(Duration.ofSeconds(1), 2);
        Mockito.when(first.away()).thenReturn(false);
        passIn(Duration.ofSeconds(1), 1);
        Mockito.verify(first, Mockito.times(4)).take(Mockito.any(), Mockito.any());
        Mockito.verify(second, Mockito.times(2)).take(Mockito.any(), Mockito.any());
    }

    @Test
    void aRowGoesToTheDestinationItNamesAndToTheUsualOneWhereNoneHasTheName() throws Exception {
        DestinationWriter usual = Mockito.mock(DestinationWriter.class);
        DestinationWriter dryer = Mockito.mock(DestinationWriter.class);
        Layout layout = Layout.proposed()
                .plus(Column.of(
                        "area",
                        SqlType.text(20),
                        new ColumnSource.FromTag(new TagRef("s", "v"), ColumnSource.Aspect.VALUE)));
        RecorderDefinition design = new RecorderDefinition(
                "aaaaaaaa", "a", "", List.of(new When.Every(Duration.ofSeconds(1))), layout, List.of());
        Where where = new Where(
                "one",
                "t",
                Upkeep.NONE,
                false,
                new dachshund.core.destination.WriteMode.Insert(),
                "",
                "",
                "{area} records");
        LaneDesign elsewhere = LaneDesign.of(design.withWheres(List.of(where.into("two"))));
        RecorderRun run = new RecorderRun(
                design,
                new RowId("000001", "aaaaaaaa", 5, 0, 0),
                sequence,
                List.of(new RecorderRun.Target(
                        where,
                        usual,
                        LaneDesign.of(design),
                        name -> name.equals("Dryer records")
                                ? Optional.of(new RecorderRun.Target(where.into("two"), dryer, elsewhere))
                                : Optional.empty())),
                surroundings(""));
        changeover(run);
        tags.offer("s", List.of(new TagChange("v", TagValue.good("Dryer", clock.now()))));
        passIn(Duration.ofSeconds(1), 3);
        assertThat(run.astray()).isEmpty();
        Mockito.verify(dryer, Mockito.times(3)).take(Mockito.eq(elsewhere), Mockito.any());
        Mockito.verifyNoInteractions(usual);
        tags.offer("s", List.of(new TagChange("v", TagValue.good("Boiler", clock.now()))));
        passIn(Duration.ofSeconds(1), 2);
        Mockito.verify(usual, Mockito.times(2)).take(Mockito.eq(LaneDesign.of(design)), Mockito.any());
        tags.offer("s", List.of(new TagChange("v", TagValue.good("Dryer", clock.now()))));
        passIn(Duration.ofSeconds(1), 1);
        Mockito.verify(dryer, Mockito.times(4)).take(Mockito.eq(elsewhere), Mockito.any());
        assertThat(run.astray())
                .as("said as long as it runs")
                .isEqualTo("There is no destination named Boiler records; such rows go to the usual one.");
    }

    @Test
    void valuesThatDoNotFitAreSetAsideAndARecorderWithNothingElseStopsItself() {
        tags.offer("s", List.of(new TagChange("v", TagValue.good("PL1-261124", clock.now()))));
        changeover(run("aaaaaaaa", Duration.ofSeconds(1), SqlType.INTEGER));
        passIn(Duration.ofSeconds(1), 3);
        assertThat(local.aside().newest("aaaaaaaa", 10)).hasSize(3).allMatch(row -> row.values()
                .contains("PL1-261124"));
        passIn(Duration.ofSeconds(1), RecorderRun.STOP_AFTER_REFUSALS);
        assertThat(stopped).hasSize(1);
        assertThat(local.aside().counts().get("aaaaaaaa")).isEqualTo(RecorderRun.STOP_AFTER_REFUSALS);
    }

    @Test
    void aRowThatDoesNotFitAndThatThereIsNoRoomForAsideIsCountedAsRefusedAndSaid() throws Exception {
        close();
        openWith(new LocalStore(folder.resolve("small.db"), 3));
        RecorderRun run = run("aaaaaaaa", Duration.ofSeconds(1), SqlType.INTEGER);
        tags.offer("s", List.of(new TagChange("v", TagValue.good("PL1-261124", clock.now()))));
        changeover(run);
        passIn(Duration.ofSeconds(1), 5);
        assertThat(local.aside().counts().get("aaaaaaaa")).isEqualTo(3);
        Account account = writer.status("aaaaaaaa").orElseThrow().account();
        assertThat(account.aside()).as("%s", account).isEqualTo(3);
        assertThat(account.refused()).as("%s", account).isEqualTo(2);
        assertThat(account.difference()).as("%s", account).isZero();
    }
}
