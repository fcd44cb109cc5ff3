package dachshund.engine.lane;

import static dachshund.engine.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.Batching;
import dachshund.core.destination.Place;
import dachshund.core.destination.PlacePattern;
import dachshund.core.destination.WriteMode;
import dachshund.core.layout.Upkeep;
import dachshund.core.outcome.Outcome;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.local.LocalStore;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** The way from journal to table under faults. */
class DestinationWriterTest extends WriterRig {

    @Test
    void rowsLandInOrderAndTheTableIsMadeFirst() throws Exception {
        take(recorder(A, "a", true, false), 1, 2501);
        drain();
        assertThat(sequences("a")).isEqualTo(upTo(2500));
        assertThat(store.made).hasSize(1);
        assertThat(book.total(Outcome.LANDED)).isEqualTo(2500);
        assertThat(status(A).state()).isEqualTo(LaneState.RECORDING);
    }

    @ParameterizedTest
    @ValueSource(longs = {1, 2, 3, 4, 5, 6})
    void nothingIsLostOrDoubledWhateverBreaksAndWhenever(long seed) throws Exception {
        store = new FakeStore(seed);
        restart();
        store.awayBefore = 0.2;
        store.awayAfterCommit = 0.3;
        RecorderDefinition byId = recorder(A, "by_id", true, false);
        RecorderDefinition byMark = recorder(B, "by_mark", false, true);
        // With many rows, into several tables at once.
        store.writesAtOnce = true;
        store.beside = 3;
        int each = seed % 2 == 0 ? 40 : 2 * Together.LEAST_ROWS;
        int n = 1;
        for (int round = 0; round < 25; round++) {
            take(byId, n, n + each);
            take(byMark, n, n + each);
            n += each;
            steps(3);
            if (store.random.nextInt(6) == 0) {
                restart(); // rows that were on disk are there again, cursors may lie behind what was committed
                epoch--;
            }
        }
        drain();
        assertThat(sequences("by_id")).isEqualTo(upTo(25 * each));
        assertThat(sequences("by_mark")).isEqualTo(upTo(25 * each));
    }

    @Test
    void withoutIdentityOrMarkARowMayLandTwiceButNoneIsLost() throws Exception {
        store.awayAfterCommit = 0.3;
        RecorderDefinition bare = recorder(A, "bare", false, false);
        for (int n = 1; n <= 200; n += 10) {
            take(bare, n, n + 10);
            steps(2);
        }
        drain();
        assertThat(sequences("bare")).containsAll(upTo(200)).hasSizeGreaterThanOrEqualTo(200);
    }

    @Test
    void aRefusedRowIsSetAsideAndTheRowsAroundItLand() throws Exception {
        store.refused = row -> row.id().sequence() == 7 || row.id().sequence() == 650;
        take(recorder(A, "a", true, false), 1, 1001);
        drain();
        assertThat(store.rows("a")).hasSize(998);
        assertThat(sequences("a")).doesNotContain(7L, 650L).isSorted();
        assertThat(local.aside().newest(A, 10)).hasSize(2).allMatch(row -> row.reason()
                .contains("out of range"));
        assertThat(book.total(Outcome.SET_ASIDE)).isEqualTo(2);
    }

    @Test
    void manyRefusalsInARowFaultTheLaneInsteadOfFillingTheStore() throws Exception {
        store.refused = row -> true;
        take(recorder(A, "a", true, false), 1, 501);
        until(() -> status(A).state() == LaneState.FAULTED);
        assertThat(status(A).sentence()).contains("100 rows in a row were refused");
        assertThat(local.aside().counts().get(A)).isEqualTo(100);
        store.refused = row -> false;
        drain();
        assertThat(store.rows("a")).hasSize(400);
    }

    @Test
    void whereThereIsNoMoreRoomAsideTheLaneWaitsAndSaysSo() throws Exception {
        restartWith(new LocalStore(folder.resolve("local.db"), 10));
        store.refused = row -> row.id().recorder().equals(A) && row.id().sequence() % 2 == 1;
        take(recorder(A, "a", true, false), 1, 41);
        take(recorder(B, "b", true, false), 1, 41);
        until(() -> status(A).state() == LaneState.FAULTED && sequences("b").size() == 40);
        steps(100);
        assertThat(status(A).sentence())
                .contains("10 rows of this recorder are set aside")
                .contains("out of range");
        assertThat(local.aside().counts().get(A)).isEqualTo(10);
        adds(A, 10, 10);
        local.aside()
                .letGo(local.aside().newest(A, 10).stream().map(row -> row.id()).toList());
        drain();
        adds(A, 20, 20);
    }

    @Test
    void aLockedTableStopsItsOwnLaneOnly() throws Exception {
        RecorderDefinition a = recorder(A, "a", true, false);
        RecorderDefinition b = recorder(B, "b", true, false);
        take(a, 1, 11);
        take(b, 1, 11);
        drain();
        store.lockedTable = "a";
        take(a, 11, 3011);
        take(b, 11, 3011);
        until(() -> store.rows("b").size() == 3010);
        assertThat(status(A).state()).isEqualTo(LaneState.FAULTED);
        assertThat(status(A).waiting()).isEqualTo(3000);
        assertThat(status(B).state()).isEqualTo(LaneState.RECORDING);
        store.lockedTable = "";
        take(a, 3011, 3021);
        drain();
        assertThat(sequences("a")).isEqualTo(upTo(3020));
    }

    @Test
    void whileTheDestinationIsAwayRowsAreHeldAndCountedAlsoOverARestart() throws Exception {
        store.away = true;
        Instant first = clock.now();
        take(recorder(A, "a", true, false), 1, 501);
        until(() -> status(A).state() == LaneState.HOLDING);
        assertThat(status(A).sentence()).contains("rows are safe on disk");
        restart();
        assertThat(writer.waiting()).isEqualTo(500);
        clock.pass(Duration.ofHours(1));
        steps(5);
        assertThat(status(A).since()).as("of the oldest row").isEqualTo(first);
        store.away = false;
        drain();
        assertThat(sequences("a")).isEqualTo(upTo(500));
    }

    @Test
    void rowsHeldWhenADesignChangesLandByTheirOwnDesignFirst() throws Exception {
        store.away = true;
        take(recorder(A, "old_table", true, false), 1, 11);
        take(recorder(A, "new_table", true, false), 11, 21);
        steps(3);
        store.away = false;
        drain();
        assertThat(store.rows("old_table")).hasSize(10);
        assertThat(sequences("new_table")).first().isEqualTo(11L);
    }

    @Test
    void aColumnThatItsOwnerDropsIsLeftOutWithAWarningAlsoAfterARestart() throws Exception {
        RecorderDefinition recorder = recorder(A, "a", true, false);
        take(recorder, 1, 11);
        drain();
        store.gone.add("record_time");
        take(recorder, 11, 21);
        drain();
        assertThat(sequences("a")).isEqualTo(upTo(20));
        assertThat(store.rows("a").get(10).cells()).hasSize(1);
        until(() ->
                status(A).state() == LaneState.RECORDING && status(A).sentence().contains("lost record_time"));
        restart();
        take(recorder, 1, 3);
        drain();
        assertThat(store.made).as("never added again").hasSize(1);
    }

    @Test
    void aVanishedTableIsMadeAgainOnlyWhereUpkeepSaysSo() throws Exception {
        RecorderDefinition mayMake = recorder(A, "a", true, false);
        RecorderDefinition mayNot =
                recorder(B, "b", true, false).withWheres(List.of(new Where("dest", "b", Upkeep.NONE, false)));
        store.tables.put("b", new java.util.ArrayList<>());
        take(mayMake, 1, 3);
        take(mayNot, 1, 3);
        drain();
        store.tables.clear();
        take(mayMake, 3, 5);
        take(mayNot, 3, 5);
        until(() -> store.rows("a").size() == 2 && status(B).state() == LaneState.FAULTED);
        assertThat(writer.waiting()).as("the other's rows wait").isEqualTo(2);
    }

    @Test
    void rowsOfOneDesignGoToTheTablesThatTheirNamesSay() throws Exception {
        RecorderDefinition recorder = recorder(A, "t_{recorder}", true, false);
        LaneDesign design = writer.design(recorder);
        for (int n = 1; n <= 30; n++) {
            RowId id = new RowId(local.installation(), A, epoch, n, 0);
            writer.take(design, new Row(id, clock.now(), new Object[] {clock.now(), id.toString()}), "t_" + n % 3);
        }
        drain();
        assertThat(sequences("t_0")).hasSize(10).allMatch(n -> n % 3 == 0);
        assertThat(sequences("t_1")).hasSize(10);
        assertThat(store.rows("t_2").get(0).cells()).hasSize(2);
    }

    @Test
    void aTableLockedForLongHoldsItsOwnRowsHoweverManyAndNoOthers() throws Exception {
        RecorderDefinition locked = recorder(A, "a", true, false);
        RecorderDefinition other = recorder(B, "b", true, false);
        take(locked, 1, 2);
        drain();
        store.busyTable = "a";
        take(locked, 2, 6001);
        take(other, 1, 11);
        until(() -> sequences("b").size() == 10);
        assertThat(status(A).state()).isEqualTo(LaneState.HOLDING);
        store.busyTable = "";
        drain();
        assertThat(sequences("a")).isEqualTo(upTo(6000));
    }

    @Test
    void cursorsThatAreManyBatchesBehindDoubleNothing() throws Exception {
        limits = new SegmentJournal.Limits(1 << 30, 0, 50_000_000, 1);
        restart();
        RecorderDefinition byId = recorder(A, "by_id", true, false);
        RecorderDefinition byMark = recorder(B, "by_mark", false, true);
        take(byId, 1, 5501);
        take(byMark, 1, 5501);
        drain();
        int transactions = store.transactions;
        writer.close();
        try (Connection file = DriverManager.getConnection("jdbc:sqlite:" + folder.resolve("local.db"));
                Statement statement = file.createStatement()) {
            statement.execute("UPDATE lane SET position = 0, nth = 0, landed = 0");
        }
        open();
        assertThat(writer.waiting()).isEqualTo(11_000);
        drain();
        assertThat(store.transactions).as("nothing was sent again").isEqualTo(transactions);
        take(byId, 5501, 5511);
        drain();
        assertThat(sequences("by_id")).isEqualTo(upTo(5510));
        assertThat(sequences("by_mark")).isEqualTo(upTo(5500));
    }

    @Test
    void theRowsOfADayMakeOnlySoManyTablesAndTheNextDayMakesItsOwn() throws Exception {
        RecorderDefinition recorder = recorder(A, "t_{recorder}", true, false);
        LaneDesign design = writer.design(recorder);
        for (int n = 1; n <= PlacePattern.MOST_A_DAY + 5; n++) {
            RowId id = new RowId(local.installation(), A, epoch, n, 0);
            writer.take(design, new Row(id, clock.now(), new Object[] {clock.now(), id.toString()}), "t_" + n);
        }
        RowId id = new RowId(local.installation(), A, epoch, PlacePattern.MOST_A_DAY + 6, 0);
        Instant tomorrow = clock.now().plus(Duration.ofDays(1));
        writer.take(design, new Row(id, tomorrow, new Object[] {tomorrow, id.toString()}), "t_tomorrow");
        drain();
        assertThat(store.tables).hasSize(PlacePattern.MOST_A_DAY + 1).containsKey("t_tomorrow");
        assertThat(local.aside().newest(A, 10)).hasSize(5).allMatch(row -> row.reason()
                .contains("a day opens no more"));
    }

    @Test
    void rowsWaitForAFullBatchOrUntilTheirTimeIsUp() throws Exception {
        batching = new Batching(10, Duration.ofSeconds(60));
        restart();
        RecorderDefinition recorder = recorder(A, "a", true, false);
        take(recorder, 1, 10);
        steps(20);
        assertThat(store.rows("a")).as("nine rows, six seconds").isEmpty();
        take(recorder, 10, 11);
        soon(() -> {
            writer.step();
            return store.rows("a").size() == 10;
        });
        take(recorder, 11, 12);
        steps(100);
        assertThat(store.rows("a")).as("one row, thirty seconds").hasSize(10);
        clock.pass(Duration.ofSeconds(31));
        soon(() -> {
            writer.step();
            return store.rows("a").size() == 11;
        });
        assertThat(store.transactions).isEqualTo(2);
    }

    @Test
    void aTableThatMayNotBeMadeFaultsTheLaneWithASentence() throws Exception {
        RecorderDefinition strict =
                recorder(A, "a", true, false).withWheres(List.of(new Where("dest", "a", Upkeep.NONE, false)));
        take(strict, 1, 3);
        until(() -> status(A).state() == LaneState.FAULTED);
        assertThat(status(A).sentence()).contains("may not make it");
        assertThat(store.made).isEmpty();
        assertThat(writer.waiting()).isEqualTo(2);
    }

    private static RecorderDefinition perDatabase(Upkeep upkeep) {
        return recorder(A, "a", true, false)
                .withWheres(List.of(new Where("dest", "a", upkeep, false, new WriteMode.Insert(), "", "db {HH}", "")));
    }

    /** A row as a recorder hands it over: the names that its patterns made stand behind its cells. */
    private void takeFor(RecorderDefinition recorder, int n, String database) throws Exception {
        RowId id = new RowId(local.installation(), recorder.id(), epoch, n, 0);
        Object[] cells = {clock.now(), id.toString()};
        writer.take(writer.design(recorder), new Row(id, clock.now(), cells), new Place(database, "a").text());
    }

    @Test
    void everyRowLandsInTheDatabaseOfItsNameWhichIsMadeOnce() throws Exception {
        RecorderDefinition recorder = perDatabase(new Upkeep(true, true));
        for (int n = 1; n <= 60; n++) {
            takeFor(recorder, n, "db " + n % 3);
        }
        drain();
        assertThat(store.others.keySet()).containsExactlyInAnyOrder("db 0", "db 1", "db 2");
        for (int i = 0; i < 3; i++) {
            int rest = i;
            FakeStore database = store.others.get("db " + i);
            assertThat(database.rows("a").stream().map(row -> row.id().sequence()))
                    .isEqualTo(upTo(60).stream().filter(n -> n % 3 == rest).toList());
            assertThat(database.made).as("its table is made once").hasSize(1);
        }
        assertThat(store.tables).isEmpty();
    }

    @Test
    void aDayMakesTwentyDatabasesAtMostAndTheNextRowIsSetAside() throws Exception {
        RecorderDefinition recorder = perDatabase(new Upkeep(true, true));
        for (int n = 1; n <= 21; n++) {
            takeFor(recorder, n, "db " + n);
        }
        takeFor(recorder, 22, "db 1");
        drain();
        assertThat(store.others).hasSize(PlacePattern.MOST_DATABASES_A_DAY);
        assertThat(local.aside().newest(A, 10)).singleElement().satisfies(row -> assertThat(row.reason())
                .contains("20 databases"));
        assertThat(store.others.get("db 1").rows("a")).hasSize(2);
    }

    @Test
    void aDatabaseThatMayNotBeMadeFaultsItsLaneAloneUntilSomebodyMakesIt() throws Exception {
        take(recorder(B, "b", true, false), 1, 5);
        RecorderDefinition recorder = perDatabase(Upkeep.NONE);
        takeFor(recorder, 1, "db 1");
        until(() -> status(A).state() == LaneState.FAULTED && store.rows("b").size() == 4);
        assertThat(status(A).sentence()).contains("no database db 1");
        assertThat(status(B).state()).isEqualTo(LaneState.RECORDING);
        FakeStore made = new FakeStore(1);
        made.tables.put("a", new java.util.ArrayList<>());
        store.others.put("db 1", made);
        drain();
        assertThat(made.rows("a")).hasSize(1);
    }
}
