package dachshund.engine.lane;

import static dachshund.engine.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.withSettings;

import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.StoreProblem;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.transaction.Values;
import dachshund.core.when.Confirmation;
import dachshund.core.when.When;
import dachshund.engine.answer.PlantSide;
import dachshund.engine.count.CounterBook;
import dachshund.engine.local.LocalStore;
import dachshund.engine.recorder.Recorders;
import dachshund.engine.tag.TagTable;
import dachshund.engine.thread.Hands;
import dachshund.engine.when.ActionPool;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.EnumSource;

/** The plant asks for rows by a number: each is there once, whatever dies, and the plant is told what became of it. */
class ConfirmedRowsTest extends WriterRig {

    private static final TagRef NUMBER = tag("number");
    private static final TagRef ANSWERED = tag("answered");
    private static final TagRef CODE = tag("code");
    private static final TagRef TEXT = tag("text");
    private static final TagRef DATA = tag("data");

    private final Map<TagRef, Object> plc = new ConcurrentHashMap<>();
    private final List<String> told = Collections.synchronizedList(new ArrayList<>());
    private volatile boolean reachable = true;
    private volatile CountDownLatch hangs = new CountDownLatch(0);
    private TagTable tags;
    private Recorders recorders;

    /** The process dies at one of the things it does, before or after it is done; none of what would come later happens. */
    private final AtomicInteger done = new AtomicInteger();
    /** What is being done just now. */
    private final AtomicInteger under = new AtomicInteger();

    private volatile int diesAt = -1;
    private volatile boolean before;
    private volatile boolean dead;

    private static final class Death extends Error {
        private static final long serialVersionUID = 1;
    }

    private interface Deed<T> {
        T does() throws Throwable;
    }

    private <T> T alive(Deed<T> deed) throws Throwable {
        if (dead) {
            throw new IllegalStateException("The process is dead.");
        }
        under.incrementAndGet();
        try {
            boolean now = done.incrementAndGet() == diesAt;
            T result = null;
            if (!now || !before) {
                result = deed.does();
            }
            if (now) {
                dead = true;
                throw new Death();
            }
            return result;
        } finally {
            under.decrementAndGet();
        }
    }

    private static TagRef tag(String address) {
        return new TagRef("a0000001", address);
    }

    private final PlantSide plant = new PlantSide() {
        @Override
        public TagValue now(TagRef tag) {
            return plc.containsKey(tag) ? TagValue.good(plc.get(tag), clock.now()) : TagValue.NONE;
        }

        @Override
        public TagValue lastGood(TagRef tag) {
            return now(tag);
        }

        @Override
        public String write(TagRef tag, Object value, double tolerance, String by) {
            try {
                hangs.await();
                return alive(() -> {
                    if (!reachable) {
                        throw new IllegalArgumentException("The controller does not answer.");
                    }
                    plc.put(tag, value);
                    if (tag.equals(ANSWERED)) {
                        told.add(Values.words(value) + " " + plc.get(CODE) + " " + plc.get(TEXT));
                    }
                    return Values.words(value);
                });
            } catch (RuntimeException | Error thrown) {
                throw thrown;
            } catch (Throwable other) {
                throw new IllegalStateException(other);
            }
        }

        @Override
        public void publish(String source, String topic, String payload, boolean retained) {
            throw new IllegalArgumentException("It takes no messages.");
        }
    };

    private static RecorderDefinition design(Confirmation.Of of) {
        return new RecorderDefinition(
                        A,
                        "Bags",
                        "",
                        List.of(new When.OnRequest(NUMBER, Optional.empty(), Optional.of(ANSWERED))),
                        Layout.proposed()
                                .plus(column("number", SqlType.DOUBLE, NUMBER))
                                .plus(column("data", SqlType.INTEGER, DATA)),
                        List.of(new Where("dest", "bags", new Upkeep(true, true), false)))
                .withConfirms(Optional.of(
                        Confirmation.that(of).withCode(Optional.of(CODE)).withText(Optional.of(TEXT))));
    }

    private static Column column(String name, SqlType type, TagRef tag) {
        return Column.of(name, type, new ColumnSource.FromTag(tag, ColumnSource.Aspect.VALUE));
    }

    private void begin(RecorderDefinition design) {
        store.layout = design.layout();
        tags = new TagTable(clock);
        CounterBook counts = mock(
                CounterBook.class,
                withSettings().spiedInstance(new CounterBook()).defaultAnswer(call -> alive(call::callRealMethod)));
        recorders = new Recorders(
                new RowId(local.installation(), "00000000", ++epoch, 0, 0),
                tags,
                new Plant("test", ZoneOffset.UTC, List.of()),
                id -> Optional.of(writer),
                clock,
                counts,
                local,
                ActionPool.onCaller(),
                Hands.THREADS,
                plant);
        recorders.changeover(List.of(design), new Plant("test", ZoneOffset.UTC, List.of()));
        heard();
    }

    /** What the controller says comes to us, all of it at once. */
    private void heard() {
        tags.offer(
                "a0000001",
                plc.entrySet().stream()
                        .map(each ->
                                new TagChange(each.getKey().address(), TagValue.good(each.getValue(), clock.now())))
                        .toList());
    }

    private void ask(int number) {
        plc.put(DATA, number * 10.0);
        plc.put(NUMBER, (double) number);
        heard();
    }

    private List<Double> numbers() {
        return List.copyOf(store.rows("bags")).stream()
                .map(row -> (Double) row.cells()[row.cells().length - 2])
                .toList();
    }

    private void idle() {
        plc.put(NUMBER, 0.0);
        plc.put(ANSWERED, 0.0);
        plc.put(DATA, 0.0);
    }

    @AfterEach
    void end() {
        Optional.ofNullable(recorders).ifPresent(Recorders::close);
    }

    @Test
    void thePlantIsToldOnceTheRowIsInItsTable() {
        idle();
        begin(design(Confirmation.Of.LANDED));
        store.away = true;
        ask(17);
        soon(() -> writer.last(A) == 1);
        steps(20);
        assertThat(told).isEmpty();
        assertThat(plc.get(ANSWERED)).isEqualTo(0.0);
        store.away = false;
        until(() -> told.size() == 1);
        assertThat(told).containsExactly("17 1 ");
        assertThat(numbers()).containsExactly(17.0);
    }

    @Test
    void safeIsToldWhileTheDatabaseIsAway() {
        idle();
        begin(design(Confirmation.Of.SAFE));
        store.away = true;
        ask(17);
        until(() -> told.size() == 1);
        ask(18);
        until(() -> told.size() == 2);
        assertThat(told).containsExactly("17 1 ", "18 1 ");
        assertThat(store.rows("bags")).isEmpty();
        store.away = false;
        drain();
        assertThat(numbers()).containsExactly(17.0, 18.0);
    }

    @Test
    void aRowThatIsRefusedOrDoesNotFitIsToldWithItsReason() {
        idle();
        begin(design(Confirmation.Of.LANDED));
        store.refused = row -> row.cells()[row.cells().length - 2].equals(17.0);
        ask(17);
        until(() -> told.size() == 1);
        assertThat(told.get(0)).startsWith("17 3 Set aside: ");
        plc.put(DATA, 1e12);
        plc.put(NUMBER, 18.0);
        heard();
        until(() -> told.size() == 2);
        assertThat(told.get(1)).startsWith("18 3 ");
        assertThat(local.aside().newest(A, 10)).hasSize(2);
        ask(19);
        until(() -> told.size() == 3);
        assertThat(told.get(2)).isEqualTo("19 1 ");
        assertThat(numbers()).containsExactly(19.0);
        adds(A, 1, 2);
    }

    @Test
    void oneThatAPersonDiscardsHasNotLanded() {
        idle();
        begin(design(Confirmation.Of.LANDED));
        store.thrower = batch -> {
            throw new StoreProblem(StoreProblem.Kind.TABLE, -1, "There is no table.", null);
        };
        ask(17);
        until(() -> status(A).state() == LaneState.FAULTED);
        assertThat(told).isEmpty();
        writer.discard(A, 1);
        store.thrower = batch -> {};
        until(() -> told.size() == 1);
        assertThat(told).containsExactly("17 3 It was discarded by a person.");
        assertThat(numbers()).isEmpty();
    }

    @Test
    void aPlantThatCannotBeReachedIsToldLaterUnlessItAsksForSomethingElse() {
        idle();
        begin(design(Confirmation.Of.LANDED));
        reachable = false;
        ask(17);
        until(() -> writer.waiting() == 0
                && recorders.find(A).orElseThrow().untold().contains("does not answer"));
        reachable = true;
        until(() -> told.size() == 1);
        soon(() -> recorders.find(A).orElseThrow().untold().isEmpty());
        reachable = false;
        ask(18);
        until(() -> writer.waiting() == 0
                && recorders.find(A).orElseThrow().untold().contains("does not answer"));
        ask(19);
        until(() -> writer.waiting() == 0);
        reachable = true;
        until(() -> told.size() == 2);
        assertThat(told).containsExactly("17 1 ", "19 1 ");
        assertThat(numbers()).as("it has the row all the same").containsExactly(17.0, 18.0, 19.0);
    }

    @Test
    void aDiskThatDoesNotSayIsAskedAgainAndThePageSaysSo() {
        idle();
        restartWhereTheDiskMayRefuse();
        begin(design(Confirmation.Of.LANDED));
        store.away = true;
        ask(17);
        soon(() -> writer.last(A) == 1);
        refuses = method -> method.equals("aside");
        store.away = false;
        until(() -> recorders.find(A).orElseThrow().untold().contains("this is tried again"));
        assertThat(told).isEmpty();
        refuses = method -> false;
        until(() -> told.size() == 1);
        assertThat(told).containsExactly("17 1 ");
        soon(() -> recorders.find(A).orElseThrow().untold().isEmpty());
    }

    /** A controller that hangs holds up its own answers alone, and those that it does not wait for any more are nobody's. */
    @Test
    void aPlantThatHangsIsToldOfItsLastRequestAlone() throws Exception {
        idle();
        begin(design(Confirmation.Of.SAFE));
        hangs = new CountDownLatch(1);
        for (int number = 1; number <= 40; number++) {
            ask(number);
            int wanted = number;
            soon(() -> writer.last(A) == wanted);
        }
        soon(() -> Thread.getAllStackTraces().keySet().stream()
                        .filter(thread -> thread.getName().equals("confirm-" + A))
                        .count()
                <= 2);
        hangs.countDown();
        until(() -> Double.valueOf(40).equals(plc.get(ANSWERED)));
        drain();
        assertThat(numbers()).hasSize(40);
        assertThat(told).last().isEqualTo("40 1 ");
    }

    /** The same number again, once it was answered, is the same request; another design goes on where the one before was. */
    @ParameterizedTest
    @EnumSource(Confirmation.Of.class)
    void whatIsAskedForAgainIsToldAgain(Confirmation.Of of) {
        idle();
        begin(design(of));
        ask(17);
        until(() -> told.size() == 1);
        plc.put(ANSWERED, 0.0);
        plc.put(NUMBER, 0.0);
        heard();
        ask(17);
        until(() -> told.size() == 2);
        plc.put(ANSWERED, 0.0);
        recorders.close();
        restart();
        begin(design(of).withName("Bags, renamed"));
        until(() -> told.size() == 3);
        assertThat(told).containsExactly("17 1 ", "17 1 ", "17 1 ");
        drain();
        assertThat(numbers()).containsExactly(17.0);
    }

    @Test
    void stoppedItStillTellsOfTheRowThatItHas() {
        idle();
        begin(design(Confirmation.Of.LANDED));
        store.away = true;
        ask(17);
        soon(() -> writer.last(A) == 1);
        recorders.stop(A, "somebody", "");
        store.away = false;
        until(() -> told.size() == 1);
        assertThat(numbers()).containsExactly(17.0);
    }

    /** Three requests one after the other, by a plant that waits for its answer; the process dies at each thing that it does. */
    @ParameterizedTest
    @CsvSource({"LANDED, true", "LANDED, false", "SAFE, true", "SAFE, false"})
    void killedAnywhereEachRequestHasOneRowAndOneAnswer(Confirmation.Of of, boolean beforeIt) {
        int deaths = 0;
        for (int at = 1; ; at++) {
            before = beforeIt;
            if (!story(of, at)) {
                break;
            }
            deaths++;
        }
        assertThat(deaths).isGreaterThan(20);
    }

    /** Whether it died. */
    private boolean story(Confirmation.Of of, int at) {
        told.clear();
        store.tables.clear();
        int first = at * 10;
        idle();
        restartWith(mock(
                LocalStore.class,
                withSettings().useConstructor(folder.resolve("local.db")).defaultAnswer(call -> switch (call.getMethod()
                        .getName()) {
                    case "run", "update", "together" -> alive(call::callRealMethod);
                    default -> call.callRealMethod();
                })));
        done.set(0);
        diesAt = at;
        boolean died = false;
        try {
            begin(design(of));
            died = asks(first);
        } catch (Death death) {
            died = true;
        }
        diesAt = -1;
        soon(() -> under.get() == 0);
        if (died || dead) {
            Optional.ofNullable(recorders).ifPresent(Recorders::close);
            try {
                close();
            } catch (IllegalStateException itIsDead) {
                assertThat(dead).isTrue();
            }
            open();
            dead = false;
            begin(design(of));
            assertThat(asks(first)).isFalse();
            died = true;
        }
        drain();
        assertThat(numbers()).as("%s, dead at %s", of, at).containsExactly((double) first, first + 1.0, first + 2.0);
        assertThat(told).as("dead at %s", at).allMatch(each -> each.endsWith(" 1 "));
        assertThat(List.copyOf(store.rows("bags")).stream().map(Row::id).distinct())
                .hasSize(3);
        recorders.close();
        return died;
    }

    /** The plant asks for what it has no answer to. Whether we died meanwhile. */
    private boolean asks(int first) {
        for (int number = first; number < first + 3; number++) {
            if (plc.get(ANSWERED) instanceof Number answered && answered.doubleValue() >= number) {
                continue;
            }
            ask(number);
            double wanted = number;
            until(() -> dead || plc.get(ANSWERED) instanceof Number answered && answered.doubleValue() == wanted);
            if (dead) {
                return true;
            }
            heard();
        }
        return false;
    }
}
