package dachshund.engine.lane;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.Batching;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.StoreProblem.Kind;
import dachshund.core.layout.Upkeep;
import dachshund.engine.journal.SegmentJournal;
import java.nio.file.Files;
import java.time.Duration;
import java.util.List;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.Supplier;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** One lane's store throws, refuses, hangs, lies or is lost: every other lane goes on, and the account adds up. */
class WhateverAStoreDoesTest extends WriterRig {

    static Stream<Supplier<Throwable>> anything() {
        return Stream.concat(
                Stream.of(Kind.values())
                        .filter(kind -> kind != Kind.AWAY
                                && kind != Kind.CONTENT
                                && kind != Kind.DUPLICATE
                                && kind != Kind.UNKNOWN)
                        .map(kind -> () -> new StoreProblem(kind, 0, "It said " + kind + ".", null)),
                Stream.of(
                        () -> new IllegalStateException("a driver's defect"),
                        () -> new NullPointerException(),
                        () -> new StackOverflowError(),
                        () -> new NoClassDefFoundError("org/example/Gone"),
                        () -> new AssertionError("never")));
    }

    private static void sneak(Throwable thrown) throws StoreProblem {
        if (thrown instanceof StoreProblem problem) {
            throw problem;
        }
        if (thrown instanceof RuntimeException runtime) {
            throw runtime;
        }
        throw (Error) thrown;
    }

    @ParameterizedTest
    @MethodSource("anything")
    void whatIsThrownAtOneLaneIsItsAffairAloneAndSaid(Supplier<Throwable> thrown) throws Exception {
        RecorderDefinition a = recorder(A, "a", true, false);
        RecorderDefinition b = recorder(B, "b", true, false);
        take(a, 1, 11);
        take(b, 1, 11);
        drain();
        boolean[] on = {true};
        store.thrower = batch -> {
            if (on[0] && batch.table().equals("a")) {
                sneak(thrown.get());
            }
        };
        take(a, 11, 15);
        for (int n = 11; n < 600; n += 10) {
            take(b, n, n + 10);
            writer.step();
            clock.pass(Duration.ofMillis(20));
        }
        until(() -> sequences("b").size() == 600);
        on[0] = false;
        drain();
        assertThat(sequences("b")).isEqualTo(upTo(600));
        long aside = local.aside().counts().getOrDefault(A, 0L);
        assertThat(sequences("a").size() + aside).isEqualTo(14);
        adds(A, sequences("a").size(), aside);
        adds(B, 600, 0);
        assertThat(writer.said(A))
                .as("what was said")
                .anyMatch(line -> line.words().length() > 10);
    }

    @Test
    void aRowThatFailsForAnUnknownReasonIsFoundAndSetAsideAndItsNeighboursLand() throws Exception {
        store.thrower = batch -> {
            if (batch.rows().stream().anyMatch(row -> row.id().sequence() == 77)) {
                throw new IllegalArgumentException("The maximum length of cell contents is 32767");
            }
        };
        take(recorder(A, "a", true, false), 1, 201);
        take(recorder(B, "b", true, false), 1, 201);
        drain();
        assertThat(sequences("a")).hasSize(199).doesNotContain(77L).isSorted().doesNotHaveDuplicates();
        assertThat(local.aside().newest(A, 10)).hasSize(1).allMatch(row -> row.reason()
                .contains("32767"));
        adds(A, 199, 1);
        adds(B, 199, 1);
    }

    @Test
    void whatWasWrittenBeforeSomethingWasThrownIsNotWrittenAgain() throws Exception {
        boolean[] once = {true};
        store.thrower = batch -> {
            if (once[0] && batch.table().equals("a") && batch.rows().size() > 1) {
                once[0] = false;
                store.tables.get("a").addAll(batch.rows());
                throw new IllegalStateException("after it was there");
            }
        };
        take(recorder(A, "a", true, false), 1, 101);
        drain();
        assertThat(sequences("a")).isEqualTo(upTo(100));
        adds(A, 100, 0);
    }

    @Test
    void aTableThatIsLockedForLongKeepsTheOthersWaitingOnceOnly() throws Exception {
        RecorderDefinition a = recorder(A, "a", true, false);
        RecorderDefinition b = recorder(B, "b", true, false);
        take(a, 1, 3);
        take(b, 1, 3);
        drain();
        AtomicInteger notByItself = new AtomicInteger();
        store.thrower = batch -> {
            if (batch.table().equals("a")) {
                notByItself.addAndGet(Thread.currentThread().getName().startsWith("trial") ? 0 : 1);
                throw new StoreProblem(Kind.BUSY, 0, "The table a is locked.", null);
            }
        };
        take(a, 3, 5);
        for (int n = 3; n < 303; n++) {
            take(b, n, n + 1);
            writer.step();
            clock.pass(Duration.ofMillis(300));
        }
        until(() -> sequences("b").size() == 302);
        assertThat(notByItself).as("tries in everybody's transaction or thread").hasValue(1);
        store.thrower = batch -> {};
        drain();
        adds(A, 4, 0);
    }

    @Test
    void aTryThatHangsDelaysNoOtherLaneInTrouble() throws Exception {
        store.beside = 2;
        CountDownLatch hanging = new CountDownLatch(1);
        CountDownLatch hangs = new CountDownLatch(1);
        RecorderDefinition a = recorder(A, "a", true, false);
        RecorderDefinition b = recorder(B, "b", true, false);
        RecorderDefinition c = recorder(C, "c", true, false);
        for (RecorderDefinition each : List.of(a, b, c)) {
            take(each, 1, 3);
        }
        drain();
        boolean[] locked = {true};
        store.thrower = batch -> {
            boolean tried = Thread.currentThread().getName().startsWith("trial");
            if (batch.table().equals("a") && tried) {
                hanging.countDown();
                try {
                    hangs.await();
                } catch (InterruptedException stopped) {
                    Thread.currentThread().interrupt();
                }
            }
            if (batch.table().equals("a") || batch.table().equals("b") && locked[0]) {
                throw new StoreProblem(Kind.BUSY, 0, "The table " + batch.table() + " is locked.", null);
            }
        };
        take(a, 3, 5);
        take(b, 3, 5);
        until(() -> hanging.getCount() == 0 && status(B).state() == LaneState.HOLDING);
        locked[0] = false;
        take(b, 5, 7);
        take(c, 3, 5);
        until(() -> sequences("b").size() == 6 && sequences("c").size() == 4);
        assertThat(status(A).state()).isEqualTo(LaneState.HOLDING);
        assertThat(sequences("a")).hasSize(2);
        store.thrower = batch -> {};
        hangs.countDown();
        drain();
        adds(A, 4, 0);
        adds(B, 6, 0);
    }

    @Test
    void noMoreLanesAreTriedAtOnceThanThereAreConnectionsForAndEachHasItsTurn() throws Exception {
        store.beside = 2;
        List<RecorderDefinition> all = Stream.of("a", "b", "c", "d", "e")
                .map(table -> recorder(table.repeat(8), table, true, false))
                .toList();
        for (RecorderDefinition each : all) {
            take(each, 1, 3);
        }
        drain();
        AtomicInteger under = new AtomicInteger();
        AtomicInteger most = new AtomicInteger();
        Set<String> tried = ConcurrentHashMap.newKeySet();
        store.thrower = batch -> {
            if (Thread.currentThread().getName().startsWith("trial")) {
                most.accumulateAndGet(under.incrementAndGet(), Math::max);
                try {
                    Thread.sleep(20);
                } catch (InterruptedException stopped) {
                    Thread.currentThread().interrupt();
                }
                under.decrementAndGet();
                tried.add(batch.table());
            }
            throw new StoreProblem(Kind.BUSY, 0, "The table " + batch.table() + " is locked.", null);
        };
        for (RecorderDefinition each : all) {
            take(each, 3, 5);
        }
        until(() -> tried.size() == 5);
        assertThat(most.get()).isLessThanOrEqualTo(2);
        store.thrower = batch -> {};
        drain();
    }

    @Test
    void aStoreThatThrowsWhereItIsOnlyAskedIsASentenceAndNoSilentRepetition() throws Exception {
        RecorderDefinition a = recorder(A, "a", true, false);
        take(a, 1, 3);
        drain();
        store.busyTable = "a";
        take(a, 3, 5);
        until(() -> status(A).state() == LaneState.HOLDING);
        store.busyTable = "";
        store.beside = -1;
        for (int i = 0; i < 20; i++) {
            writer.step(); // throws nothing
            clock.pass(Duration.ofSeconds(1));
        }
        assertThat(writer.journalRemarks()).anyMatch(remark -> remark.contains("a store's defect"));
        assertThat(writer.said()).anyMatch(line -> line.words().contains("a store's defect"));
        store.beside = 1;
        drain();
        assertThat(writer.journalRemarks()).isEmpty();
        adds(A, 4, 0);
    }

    @Test
    void aStoreThatNamesABatchThatIsNotThereHoldsUpNobody() throws Exception {
        store.thrower = batch -> {
            if (batch.table().equals("a")) {
                throw new StoreProblem(Kind.BUSY, 99, "Somebody locks something.", null);
            }
        };
        take(recorder(A, "a", true, false), 1, 5);
        take(recorder(B, "b", true, false), 1, 5);
        until(() -> sequences("b").size() == 4 && status(A).state() == LaneState.HOLDING);
        assertThat(writer.journalRemarks()).isEmpty();
        store.thrower = batch -> {};
        drain();
        adds(A, 4, 0);
    }

    @Test
    void roomOfItsOwnThatCannotBeMadeIsSaidAndTheOthersGoOn() throws Exception {
        RecorderDefinition b = recorder(B, "b", true, false);
        store.lockedTable = "a";
        take(recorder(A, "a", true, false), 1, 501);
        Files.writeString(folder.resolve("journal").resolve("apart"), "in the way");
        for (int n = 1; n < 2000; n += 500) {
            take(b, n, n + 500);
            int wanted = n + 499;
            until(() -> sequences("b").size() == wanted);
        }
        for (int i = 0; i < 20; i++) {
            writer.step(); // throws nothing
            clock.pass(Duration.ofMillis(300));
        }
        assertThat(writer.said()).anyMatch(line -> line.words().contains("The journal cannot be cleared"));
        Files.delete(folder.resolve("journal").resolve("apart"));
        store.lockedTable = "";
        drain();
        adds(A, 500, 0);
        adds(B, 2000, 0);
    }

    @Test
    void aLaneThatStandsDoesNotFillTheJournalOfTheOthers() throws Exception {
        close();
        limits = new SegmentJournal.Limits(400_000, 0, 20_000, 1);
        open();
        RecorderDefinition a = recorder(A, "a", true, false);
        RecorderDefinition b = recorder(B, "b", true, false);
        store.lockedTable = "a";
        take(a, 1, 1001);
        for (int n = 1; n < 20_000; n += 500) {
            take(b, n, n + 500); // two megabytes in all, five times what the journal holds
            // What was written is cleared away a moment later, by another thread.
            until(() -> status(B).waiting() == 0 && !journal.fills());
        }
        assertThat(status(A).state()).isEqualTo(LaneState.FAULTED);
        restart();
        assertThat(status(A).waiting()).as("over a restart").isEqualTo(1000);
        store.lockedTable = "";
        take(a, 1001, 1501);
        drain();
        assertThat(store.rows("a")).hasSize(1500);
        assertThat(sequences("a").subList(0, 1000)).isEqualTo(upTo(1000));
        adds(A, 1500, 0);
        adds(B, 20_000, 0);
    }

    @Test
    void aSmallLaneIsNotBehindALargeOnesBacklog() throws Exception {
        store.away = true;
        RecorderDefinition large = recorder(A, "a", true, false);
        take(large, 1, 30_001);
        take(recorder(B, "b", true, false), 1, 6);
        close(); // all of it is durable
        epoch++;
        open();
        until(() -> status(A).state() == LaneState.HOLDING);
        store.away = false;
        until(() -> sequences("b").size() == 5);
        assertThat(sequences("a").size()).as("the large one still drains").isLessThan(20_000);
        drain();
        assertThat(sequences("a")).isEqualTo(upTo(30_000));
    }

    @Test
    void aDestinationThatAnswersIsNotAwayThoughEveryLaneOfItStands() throws Exception {
        RecorderDefinition mayNotMake =
                recorder(A, "a", true, false).withWheres(List.of(new Where("dest", "a", Upkeep.NONE, false)));
        store.away = true;
        take(mayNotMake, 1, 5);
        until(() -> writer.away());
        store.away = false;
        until(() -> status(A).state() == LaneState.FAULTED);
        assertThat(writer.away()).as("or a standby would go on taking its rows").isFalse();
        store.tables.put("a", new java.util.ArrayList<>());
        drain();
        adds(A, 4, 0);
    }

    @Test
    void aClockThatIsSetBackAnHourSilencesNoDestination() throws Exception {
        take(recorder(A, "a", true, false), 1, 5);
        store.away = true;
        until(() -> writer.away());
        store.away = false;
        clock.set(Duration.ofHours(-1));
        for (int i = 0; i < 100; i++) {
            writer.step();
            clock.pass(Duration.ofMillis(300)); // half a minute in all
        }
        drain();
        assertThat(clock.now()).isBefore(java.time.Instant.parse("2026-11-24T05:10:00Z"));
    }

    @Test
    void rowsThatWaitForOthersWaitNoLongerThoughTheClockIsSetBack() throws Exception {
        batching = new Batching(1000, Duration.ofSeconds(5));
        restart();
        take(recorder(A, "a", true, false), 1, 5);
        onDisk();
        clock.set(Duration.ofHours(-1));
        steps(40); // twelve seconds
        assertThat(store.rows("a")).hasSize(4);
    }
}
