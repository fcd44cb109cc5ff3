package dachshund.engine.lane;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.Place;
import dachshund.core.destination.RowBatch;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.StoreProblem.Kind;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.engine.journal.Journal;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.Collectors;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** Many rows go out in several transactions at once, each with tables of its own, and what one does is no affair of the others. */
class TogetherTest extends WriterRig {

    private static final int ROWS = 2 * Together.LEAST_ROWS;

    private final RecorderDefinition a = recorder(A, "a", true, true);
    private final RecorderDefinition b = recorder(B, "b", true, false);
    /** Into the table of the one before. */
    private final RecorderDefinition c = recorder(C, "b", true, false);

    @BeforeEach
    void severalAtOnce() throws Exception {
        store.writesAtOnce = true;
        store.beside = 3;
        for (RecorderDefinition each : List.of(a, b, c)) {
            take(each, 1, 2);
        }
        drain(); // tables are made, nothing is uncertain
    }

    private void takeMany(int from) throws Journal.Full {
        for (RecorderDefinition each : List.of(a, b, c)) {
            take(each, from, from + ROWS);
        }
        onDisk();
    }

    private void allLandedOnceInOrder(int last) {
        assertThat(sequences("a")).isEqualTo(upTo(last));
        for (RecorderDefinition each : List.of(b, c)) {
            assertThat(store.rows("b").stream()
                            .filter(row -> row.id().recorder().equals(each.id()))
                            .map(row -> row.id().sequence()))
                    .isEqualTo(upTo(last));
        }
        for (String recorder : List.of(A, B, C)) {
            adds(recorder, last, 0);
        }
    }

    @Test
    void twoTransactionsAreUnderWayAtOnceAndNeverForOneTable() throws Exception {
        CountDownLatch both = new CountDownLatch(2);
        Set<String> atWork = Collections.synchronizedSet(new HashSet<>());
        List<String> wrong = Collections.synchronizedList(new ArrayList<>());
        AtomicInteger waited = new AtomicInteger();
        store.beginning = batches -> {
            Set<String> tables = batches.stream().map(RowBatch::table).collect(Collectors.toSet());
            tables.stream().filter(table -> !atWork.add(table)).forEach(wrong::add);
            both.countDown();
            try {
                waited.addAndGet(both.await(60, TimeUnit.SECONDS) ? 0 : 1);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
            atWork.removeAll(tables);
        };
        takeMany(2);
        drain();
        assertThat(waited.get()).as("transactions that were alone for 60 s").isZero();
        assertThat(wrong).as("tables in two transactions").isEmpty();
        allLandedOnceInOrder(1 + ROWS);
    }

    @Test
    void fewRowsGoOutInOneTransactionAndAllWhereNoConnectionIsFree() throws Exception {
        List<Integer> lanes = new ArrayList<>();
        store.beginning = batches -> lanes.add(batches.size());
        for (RecorderDefinition each : List.of(a, b, c)) {
            take(each, 2, 4);
        }
        onDisk();
        drain();
        store.beside = 0;
        take(a, 4, 4 + ROWS);
        take(b, 4, 4 + ROWS);
        onDisk();
        drain();
        assertThat(lanes).containsExactly(3, 2);
    }

    @ParameterizedTest
    @ValueSource(strings = {"AWAY", "CLASHED", "UNKNOWN", "CONTENT", "TABLE", "error"})
    void whatOneTransactionMeetsTheOtherDoesNotNotice(String kind) throws Exception {
        AtomicInteger meets = new AtomicInteger(1);
        store.thrower = batch -> {
            if (batch.table().equals("a") && batch.rows().size() > 1 && meets.getAndDecrement() > 0) {
                if (kind.equals("error")) {
                    throw new StackOverflowError("a driver's defect");
                }
                throw new StoreProblem(Kind.valueOf(kind), 0, "Something stands in the way.", null);
            }
        };
        takeMany(2);
        int before = store.transactions;
        writer.step();
        assertThat(store.rows("b").size())
                .as("rows of the others after one step")
                .isEqualTo(2 * (1 + ROWS));
        assertThat(store.transactions).isGreaterThan(before);
        drain();
        allLandedOnceInOrder(1 + ROWS);
    }

    @Test
    void aClashIsRepeatedAtOnceAndNobodyWaits() throws Exception {
        AtomicInteger clashes = new AtomicInteger(2);
        store.thrower = batch -> {
            if (clashes.getAndDecrement() > 0) {
                throw new StoreProblem(Kind.CLASHED, 0, "Deadlock found when trying to get lock.", null);
            }
        };
        takeMany(2);
        writer.step();
        assertThat(status(A).state()).isEqualTo(LaneState.RECORDING);
        assertThat(status(B).state()).isEqualTo(LaneState.RECORDING);
        allLandedOnceInOrder(1 + ROWS);
    }

    @Test
    void aDatabaseOfTheServerThatCannotBeReachedForAStrangeReasonHoldsItsOwnLaneOnly() throws Exception {
        boolean[] strange = {false};
        store = new FakeStore(1) {
            @Override
            public RowStore in(String database) {
                if (strange[0] && !database.isEmpty()) {
                    throw new IllegalStateException("a driver's defect");
                }
                return super.in(database);
            }
        };
        store.others.put("other", new FakeStore(2));
        restart();
        String there = new Place("other", "b").text();
        take(a, 2, 3);
        takeInto(b, 2, there);
        drain();
        strange[0] = true;
        takeInto(b, 3, there);
        take(a, 3, 5);
        onDisk();
        steps(3);
        assertThat(sequences("a")).isEqualTo(List.of(2L, 3L, 4L));
        assertThat(status(B).sentence()).contains("a driver's defect");
        assertThat(status(B).waiting()).isEqualTo(1);
        strange[0] = false;
        drain();
        assertThat(store.others.get("other").rows("b")).hasSize(2);
    }

    private void takeInto(RecorderDefinition recorder, int n, String place) throws Journal.Full {
        RowId id = new RowId(local.installation(), recorder.id(), epoch, n, 0);
        writer.take(
                writer.design(recorder), new Row(id, clock.now(), new Object[] {clock.now(), id.toString()}), place);
    }
}
