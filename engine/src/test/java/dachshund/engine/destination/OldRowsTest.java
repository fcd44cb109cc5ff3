package dachshund.engine.destination;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyInt;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.RowReading;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.StoreProblem.Kind;
import dachshund.core.destination.TableDescription;
import dachshund.core.destination.TableKeeping;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Upkeep;
import dachshund.core.row.RowId;
import dachshund.core.when.When;
import dachshund.engine.FakeClock;
import dachshund.engine.destination.OldRows.Removed;
import dachshund.engine.local.LocalStore;
import dachshund.engine.night.NightWork;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.BiConsumer;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** In the night rows of a recorder's own go that are old enough, and nothing else, whatever a table does. */
class OldRowsTest {

    private static final Layout LAYOUT = Layout.proposed();
    private static final String A = "aaaaaaaa";
    private static final String B = "bbbbbbbb";

    /** A row as a table has it. */
    private record There(String id, Instant at) {}

    /** Thrown instead of doing it. */
    private interface Trouble {
        void maybe() throws StoreProblem;
    }

    @TempDir
    Path folder;

    private final FakeClock clock = new FakeClock();
    private final Map<String, List<There>> tables = new HashMap<>();
    private final Map<String, Trouble> troubles = new HashMap<>();
    private final Map<String, List<String>> places = new HashMap<>();
    private final Map<String, Long> missing = new HashMap<>();
    private final List<RecorderDefinition> recorders = new ArrayList<>();
    private final List<String> told = new ArrayList<>();
    private final List<Integer> steps = new ArrayList<>();
    private Runnable asked = () -> {};
    private Runnable telling = () -> {};
    private Optional<TableDescription> described = Optional.empty();
    private LocalStore local;
    private OldRows old;

    @BeforeEach
    void open() throws Exception {
        local = new LocalStore(folder.resolve("local.db"));
        RowReading reading = mock(RowReading.class);
        when(reading.in(any())).thenReturn(reading);
        when(reading.readsBetween()).thenReturn(true);
        doAnswer(asked -> {
                    Instant to = asked.getArgument(4);
                    Instant from = asked.getArgument(3);
                    int most = asked.getArgument(5);
                    BiConsumer<List<String>, List<Object>> taker = asked.getArgument(6);
                    List<String> names = List.of(
                            LAYOUT.recordTimeColumn().orElseThrow().name(),
                            LAYOUT.rowIdColumn().orElseThrow().name());
                    tables.getOrDefault(asked.<String>getArgument(0), List.of()).stream()
                            .filter(each ->
                                    !each.at().isBefore(from) && each.at().isBefore(to))
                            .sorted(Comparator.comparing(There::at))
                            .limit(most)
                            .forEach(each -> taker.accept(names, Arrays.asList(each.at(), each.id())));
                    return null;
                })
                .when(reading)
                .between(any(), any(), any(), any(), any(), anyInt(), any());
        TableKeeping keeping = mock(TableKeeping.class);
        when(keeping.describe(any())).thenAnswer(asked -> described);
        doAnswer(asked -> {
                    String table = asked.getArgument(0);
                    List<RowId> ids = asked.getArgument(2);
                    Trouble trouble = troubles.get(table);
                    if (trouble != null) {
                        trouble.maybe();
                    }
                    steps.add(ids.size());
                    List<String> texts = ids.stream().map(RowId::toString).toList();
                    int before = tables.get(table).size();
                    tables.get(table).removeIf(each -> texts.contains(each.id()));
                    return before - tables.get(table).size();
                })
                .when(keeping)
                .remove(any(), any(), any());
        old = new OldRows(
                () -> List.copyOf(recorders),
                new OldRows.Tables() {
                    @Override
                    public Optional<RowReading> reading(String destination) {
                        return Optional.of(reading);
                    }

                    @Override
                    public Optional<TableKeeping> keeping(String destination, String database) {
                        return Optional.of(keeping);
                    }

                    @Override
                    public List<String> places(String recorder, String destination) {
                        asked.run();
                        return places.getOrDefault(recorder, List.of());
                    }

                    @Override
                    public long missing(String recorder, String destination) {
                        return missing.getOrDefault(destination, 0L);
                    }

                    @Override
                    public String name(String destination) {
                        return "Records " + destination;
                    }
                },
                local,
                clock,
                ZoneOffset.UTC,
                (recorder, from, rows, before, begun) -> {
                    told.add(recorder.name() + ": " + rows + " from " + from);
                    telling.run();
                });
        at("2026-11-29T03:00:00Z");
    }

    @AfterEach
    void close() {
        local.close();
    }

    private void at(String time) {
        clock.pass(Duration.between(clock.now(), Instant.parse(time)));
    }

    private RecorderDefinition recorder(String id, String table, Upkeep upkeep, Where... more) {
        List<Where> wheres = new ArrayList<>(List.of(new Where("dest", table, upkeep, false)));
        wheres.addAll(List.of(more));
        RecorderDefinition made = new RecorderDefinition(
                id, "Recorder " + id, "", List.of(new When.Every(Duration.ofSeconds(1))), LAYOUT, wheres);
        recorders.add(made);
        places.put(id, new ArrayList<>(List.of(table)));
        return made;
    }

    private static Upkeep days(int days) {
        return new Upkeep(true, true, days, false);
    }

    private String id(String installation, String recorder, int n) {
        return new RowId(installation, recorder, 7, n, 0).toString();
    }

    private void fill(String table, String installation, String recorder, int rows, Duration age) {
        List<There> into = tables.computeIfAbsent(table, none -> new ArrayList<>());
        for (int n = 0; n < rows; n++) {
            into.add(new There(
                    id(installation, recorder, into.size() + 1),
                    clock.now().minus(age).plusMillis(n)));
        }
    }

    /** So many steps, with the pauses between them. */
    private void steps(int count) {
        for (int i = 0; i < count; i++) {
            clock.pass(Duration.ofNanos(old.step()));
        }
    }

    private Removed removed(String recorder) {
        return old.removed(recorder, "dest").orElseThrow();
    }

    @Test
    void onlyItsOwnOldRowsGoAFewHundredAtATime() {
        recorder(A, "lots", days(10));
        fill("lots", local.installation(), A, 1_300, Duration.ofDays(11));
        fill("lots", local.installation(), A, 20, Duration.ofDays(9));
        fill("lots", local.installation(), B, 30, Duration.ofDays(11));
        fill("lots", "0a1b2c", A, 40, Duration.ofDays(11));
        tables.get("lots").add(new There(null, clock.now().minus(Duration.ofDays(300))));
        tables.get("lots").add(new There("no row id", clock.now().minus(Duration.ofDays(300))));
        steps(10);
        assertThat(tables.get("lots")).hasSize(20 + 30 + 40 + 2);
        assertThat(steps).containsExactly(500, 500, 300);
        assertThat(told).containsExactly("Recorder " + A + ": 1300 from lots in Records dest");
        assertThat(removed(A)).isEqualTo(new Removed(Instant.parse("2026-11-29T03:00:00Z"), 1_300, 40, ""));
        // Once a night; what has become old goes in the next.
        clock.pass(Duration.ofMinutes(10));
        fill("lots", local.installation(), A, 1, Duration.ofDays(20));
        steps(10);
        assertThat(told).hasSize(1);
        at("2026-11-30T03:00:00Z");
        steps(5);
        assertThat(told).hasSize(2).last().isEqualTo("Recorder " + A + ": 1 from lots in Records dest");
    }

    /** An empty battery, a wrong time server: for such a clock all rows are old. */
    @Test
    void aClockThatIsYearsAheadTakesNothing() {
        recorder(A, "lots", days(10));
        fill("lots", local.installation(), A, 50, Duration.ofDays(1));
        steps(3);
        clock.set(Duration.ofDays(3653));
        steps(10);
        clock.pass(Duration.ofDays(2));
        steps(10);
        assertThat(tables.get("lots")).hasSize(50);
        clock.set(Duration.ofDays(-3653));
        steps(10);
        clock.pass(Duration.ofDays(9));
        steps(10);
        assertThat(tables.get("lots")).as("set right, and 12 days later").isEmpty();
    }

    @Test
    void moreThanAreReadAtOnceGoAllTheSame() {
        recorder(A, "lots", days(1));
        fill("lots", local.installation(), A, OldRowsOfTable.MOST_READ + 700, Duration.ofDays(2));
        steps(OldRowsOfTable.MOST_READ / OldRowsOfTable.AT_ONCE + 10);
        assertThat(tables.get("lots")).isEmpty();
        assertThat(removed(A).rows()).isEqualTo(OldRowsOfTable.MOST_READ + 700);
    }

    @Test
    void rowsOfOthersThatAreOlderHideNoneOfOurs() {
        recorder(A, "lots", days(1));
        fill("lots", "0a1b2c", A, OldRowsOfTable.MOST_READ + 100, Duration.ofDays(4));
        Instant once = clock.now().minus(Duration.ofDays(3));
        for (int n = 0; n < OldRowsOfTable.MOST_READ + 100; n++) {
            tables.get("lots").add(new There("of one instant", once));
        }
        fill("lots", local.installation(), A, 600, Duration.ofDays(2));
        steps(20);
        assertThat(tables.get("lots")).hasSize(2 * OldRowsOfTable.MOST_READ + 200);
        assertThat(removed(A))
                .isEqualTo(
                        new Removed(Instant.parse("2026-11-29T03:00:00Z"), 600, OldRowsOfTable.MOST_READ + 100L, ""));
    }

    @Test
    void byDayNothingGoesAndWhatTheNightLeavesIsSaid() {
        recorder(A, "lots", days(10));
        fill("lots", local.installation(), A, 1_300, Duration.ofDays(11));
        at("2026-11-29T12:00:00Z");
        steps(5);
        assertThat(steps).isEmpty();
        assertThat(old.removed(A, "dest")).isEmpty();
        at("2026-11-30T04:59:59.900Z");
        steps(3);
        at("2026-11-30T05:00:01Z");
        steps(1);
        assertThat(tables.get("lots")).isNotEmpty();
        assertThat(removed(A).trouble()).startsWith("The night ended before all");
    }

    @Test
    void whereAllRowsStayOrNobodyCouldTellThemNoneGoes() {
        recorder(A, "lots", Upkeep.NONE);
        fill("lots", local.installation(), A, 10, Duration.ofDays(4_000));
        RecorderDefinition without = recorder(B, "others", days(1));
        recorders.set(
                1,
                without.withLayout(new Layout(LAYOUT.columns().stream()
                        .filter(column -> !column.isRowId())
                        .toList())));
        fill("others", local.installation(), B, 10, Duration.ofDays(4_000));
        steps(5);
        assertThat(steps).isEmpty();
    }

    @Test
    void tablesOfAnEarlierDesignStayAsTheyAre() {
        recorder(A, "log_{yyyy}", days(1));
        places.put(A, List.of("log_2026", "before", "other\nlog_2025"));
        for (String table : List.of("log_2026", "before", "log_2025")) {
            fill(table, local.installation(), A, 3, Duration.ofDays(2));
        }
        steps(8);
        assertThat(tables.get("log_2026")).isEmpty();
        assertThat(tables.get("before")).hasSize(3);
        assertThat(tables.get("log_2025")).as("of another database").hasSize(3);
    }

    @Test
    void whatATableDoesIsSaidThereAndDelaysNoOther() {
        recorder(A, "lots", days(1));
        recorder(B, "others", days(1));
        fill("lots", local.installation(), A, 3, Duration.ofDays(2));
        fill("others", local.installation(), B, 3, Duration.ofDays(2));
        for (Trouble trouble : List.<Trouble>of(
                () -> {
                    throw new StoreProblem(Kind.TABLE, -1, "Somebody says no.", null);
                },
                () -> {
                    throw new IllegalStateException("Somebody says no.");
                },
                () -> {
                    throw new NoSuchMethodError("Somebody says no.");
                },
                () -> {
                    throw new StoreProblem(Kind.UNKNOWN, -1, "Somebody says no.", null);
                })) {
            troubles.put("lots", trouble);
            clock.pass(Duration.between(
                    clock.now(), clock.now().truncatedTo(ChronoUnit.DAYS).plus(Duration.ofHours(27))));
            fill("others", local.installation(), B, 2, Duration.ofDays(2));
            steps(6);
            assertThat(removed(A).trouble()).contains("Somebody says no");
            assertThat(tables.get("lots")).hasSize(3);
            assertThat(tables.get("others")).isEmpty();
        }
    }

    /** Whoever it belongs to has dropped a column. */
    @Test
    void withoutTheColumnsThatTellThemNoneGoesAndThatIsSaid() {
        recorder(A, "lots", days(1));
        fill("lots", local.installation(), A, 3, Duration.ofDays(2));
        described = Optional.of(new TableDescription(
                "lots",
                List.of(new TableDescription.TableColumn(
                        LAYOUT.recordTimeColumn().orElseThrow().name(), "datetime", false, false)),
                List.of(),
                true));
        steps(5);
        assertThat(tables.get("lots")).hasSize(3);
        assertThat(removed(A).trouble()).startsWith("The table has no column row_id, by which");
    }

    @Test
    void oneThatIsAwayIsTriedAgainAMinuteLaterWhileOthersGoOn() {
        recorder(A, "lots", days(1));
        recorder(B, "others", days(1));
        fill("lots", local.installation(), A, 3, Duration.ofDays(2));
        fill("others", local.installation(), B, 1_200, Duration.ofDays(2));
        int[] left = {2};
        troubles.put("lots", () -> {
            if (left[0]-- > 0) {
                throw new StoreProblem(Kind.AWAY, -1, "It does not answer.", null);
            }
        });
        steps(4);
        assertThat(tables.get("others")).isEmpty();
        assertThat(tables.get("lots")).hasSize(3);
        steps(8);
        assertThat(tables.get("lots")).isEmpty();
        assertThat(removed(A).trouble()).isEmpty();
    }

    @Test
    void whatIsRemovedWithoutAnAnswerIsNotTakenForRowsThatCannotBeRemoved() {
        recorder(A, "lots", days(1));
        fill("lots", local.installation(), A, 1_200, Duration.ofDays(2));
        boolean[] silent = {true};
        troubles.put("lots", () -> {
            if (silent[0]) {
                silent[0] = false;
                tables.get("lots").subList(0, 500).clear();
                throw new StoreProblem(Kind.AWAY, -1, "It does not answer.", null);
            }
        });
        steps(10);
        assertThat(tables.get("lots")).isEmpty();
        assertThat(removed(A)).isEqualTo(new Removed(Instant.parse("2026-11-29T03:00:00Z"), 700, 0, ""));
    }

    @Test
    void oneThatStaysAwayIsGivenUpForTheNight() {
        recorder(A, "lots", days(1));
        fill("lots", local.installation(), A, 3, Duration.ofDays(2));
        troubles.put("lots", () -> {
            throw new StoreProblem(Kind.AWAY, -1, "It does not answer.", null);
        });
        steps(3 * NightWork.TRIES);
        assertThat(removed(A).trouble()).isEqualTo("It does not answer.");
    }

    /** A trigger of the owner's that keeps them, for example. */
    @Test
    void rowsThatCannotBeRemovedAreNotTriedWithoutEnd() {
        recorder(A, "lots", days(1));
        fill("lots", local.installation(), A, 3, Duration.ofDays(2));
        tables.put("lots", List.copyOf(tables.get("lots")));
        tables.put("lots", new ArrayList<>(tables.get("lots")) {
            @Override
            public boolean removeIf(java.util.function.Predicate<? super There> which) {
                return false;
            }
        });
        steps(20);
        assertThat(steps).hasSize(1);
        assertThat(removed(A).trouble()).isEqualTo("None of 3 rows that were found could be removed.");
    }

    @Test
    void whereItIsAskedForRowsStayUntilEveryOtherPlaceHasThem() {
        recorder(A, "lots", new Upkeep(true, true, 1, true), new Where("far", "lots", Upkeep.NONE, false));
        fill("lots", local.installation(), A, 3, Duration.ofDays(2));
        missing.put("far", 12L);
        missing.put("dest", 5L);
        steps(5);
        assertThat(tables.get("lots")).hasSize(3);
        assertThat(removed(A).trouble())
                .isEqualTo("Rows stay as long as Records far does not have all of them: 12 are held or set aside.");
        missing.put("far", 0L);
        at("2026-11-30T03:00:00Z");
        steps(5);
        assertThat(tables.get("lots")).isEmpty();
    }

    @Test
    void whoSaysThatTheyStayIsHeardAtOnce() {
        recorder(A, "lots", days(1));
        fill("lots", local.installation(), A, 1_200, Duration.ofDays(2));
        steps(1);
        recorders.clear();
        recorder(A, "lots", Upkeep.NONE);
        steps(5);
        assertThat(tables.get("lots")).hasSize(700);
        assertThat(removed(A).rows()).isEqualTo(500);
        assertThat(removed(A).trouble()).startsWith("The design is another one now");
    }

    @Test
    void whatBecameOfThemIsKnownAfterARestart() {
        recorder(A, "lots", days(1));
        fill("lots", local.installation(), A, 3, Duration.ofDays(2));
        steps(5);
        local.close();
        local = new LocalStore(folder.resolve("local.db"));
        OldRows again =
                new OldRows(List::of, mock(OldRows.Tables.class), local, clock, ZoneOffset.UTC, (a, b, c, d, e) -> {});
        assertThat(again.removed(A, "dest")).contains(removed(A));
    }

    /** A fault while the tables of the night are collected: it is collected anew, and no night is skipped. */
    @Test
    void whatFailsWhileTheNightIsBegunIsBegunAnew() {
        recorder(A, "lots", days(10));
        recorder(B, "others", days(10));
        fill("lots", local.installation(), A, 3, Duration.ofDays(11));
        fill("others", local.installation(), B, 3, Duration.ofDays(11));
        int[] times = {0};
        asked = () -> {
            if (++times[0] == 2) {
                throw new IllegalStateException("The local disk does not answer.");
            }
        };
        assertThatThrownBy(() -> old.step()).hasMessage("The local disk does not answer.");
        steps(8);
        assertThat(tables.get("lots")).isEmpty();
        assertThat(tables.get("others")).isEmpty();
        assertThat(told).containsExactlyInAnyOrder(told(A, 3, "lots"), told(B, 3, "others"));
    }

    private static String told(String recorder, int rows, String table) {
        return "Recorder " + recorder + ": " + rows + " from " + table + " in Records dest";
    }

    /** What cannot be told of one is told of the next, in the night and at its end, and once. */
    @Test
    void whatCannotBeToldOfOneTableKeepsNoOtherBackAndIsNotRepeated() {
        recorder(A, "lots", days(10));
        recorder(B, "others", days(10));
        fill("lots", local.installation(), A, 3_000, Duration.ofDays(11));
        fill("others", local.installation(), B, 3_000, Duration.ofDays(11));
        telling = () -> {
            throw new AssertionError("nobody listens");
        };
        steps(2);
        troubles.put("lots", () -> {
            throw new StoreProblem(Kind.AWAY, -1, "Away.", null);
        });
        steps(2);
        at("2026-11-29T05:00:01Z");
        steps(4);
        assertThat(told).hasSize(2);
        assertThat(removed(A).trouble()).startsWith("The night ended");
        assertThat(removed(B).trouble()).startsWith("The night ended");
        assertThat(removed(A).needsSomebody()).isFalse();
    }

    /** Rows of an installation before this one are not ours to remove, and that is said; texts that are no row ids are nobody's. */
    @Test
    void rowsOfAnEarlierInstallationStayAndAreCounted() {
        recorder(A, "lots", days(10));
        fill("lots", "0a1b2c", A, 7, Duration.ofDays(12));
        fill("lots", local.installation(), A, 3, Duration.ofDays(11));
        String own = local.installation() + "-" + A + "-";
        tables.get("lots").add(new There(own, clock.now().minus(Duration.ofDays(20))));
        tables.get("lots")
                .add(new There(own + "zzzzzzzz-000000000001-0000", clock.now().minus(Duration.ofDays(20))));
        steps(6);
        assertThat(tables.get("lots")).hasSize(9);
        assertThat(removed(A)).isEqualTo(new Removed(Instant.parse("2026-11-29T03:00:00Z"), 3, 7, ""));
        local.close();
        local = new LocalStore(folder.resolve("local.db"));
        OldRows again =
                new OldRows(List::of, mock(OldRows.Tables.class), local, clock, ZoneOffset.UTC, (a, b, c, d, e) -> {});
        assertThat(again.removed(A, "dest")).contains(removed(A));
    }
}
