package dachshund.engine.lane;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.Batching;
import dachshund.core.destination.StoreProblem;
import dachshund.core.row.Row;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.local.LocalStore;
import dachshund.engine.local.Settled;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

/** The local store hangs, the journal or the store is lost or altered: nothing lands twice or elsewhere, and the account adds up. */
class WhateverTheLocalDiskDoesTest extends WriterRig {

    @Test
    void aLocalDiskThatHangsOrRefusesIsSaidAndAFileGetsNoRowsThatItCouldNotFindAgain() throws Exception {
        RecorderDefinition a = recorder(A, "a", true, false);
        take(a, 1, 3);
        drain();
        CountDownLatch hangs = new CountDownLatch(1);
        AtomicBoolean refusing = new AtomicBoolean();
        restartWhereTheDiskMayRefuse();
        refuses = method -> method.equals("settle") && waited(hangs) && refusing.get();
        take(a, 3, 5);
        until(() -> sequences("a").size() == 4);
        take(a, 5, 7);
        until(() -> sequences("a").size() == 6);
        until(() -> writer.journalRemarks().toString().contains("local disk has not answered"));
        store.tellsOfAll = false;
        take(a, 7, 9);
        until(() -> status(A).state() == LaneState.HOLDING);
        assertThat(status(A).sentence()).contains("local disk has not answered");
        assertThat(sequences("a")).as("written before it is known what landed").hasSize(6);
        hangs.countDown();
        drain();
        assertThat(sequences("a")).isEqualTo(List.of(1L, 2L, 3L, 4L, 5L, 6L, 7L, 8L));
        assertThat(writer.journalRemarks()).isEmpty();
        adds(A, 8, 0);
        refusing.set(true);
        take(a, 9, 11);
        until(() -> status(A).state() == LaneState.HOLDING
                || writer.journalRemarks().toString().contains("the disk does not answer"));
        refusing.set(false);
        take(a, 11, 13);
        drain();
        until(() -> writer.journalRemarks().isEmpty());
        adds(A, 12, 0);
    }

    /** Marks are kept for each installation: that one's last row has not landed says nothing of the next one's rows. */
    @Test
    void whatStandsBehindARowOfAnEarlierInstallationThatWasSetAsideIsNotSentTwice() throws Exception {
        RecorderDefinition a = recorder(A, "a", false, true);
        take(a, 1, 2);
        drain();
        store.away = true;
        take(a, 2, 3);
        until(() -> status(A).state() == LaneState.HOLDING);
        close();
        remove(folder.resolve("local.db"), folder.resolve("local.db-wal"), folder.resolve("local.db-shm"));
        epoch++;
        open();
        restartWhereTheDiskMayRefuse();
        refuses = "settle"::equals; // how far the lane is comes to no disk
        store.away = false;
        store.refused = row -> row.id().sequence() == 2;
        take(a, 3, 6);
        until(() -> store.rows("a").size() == 4);
        restart();
        store.refused = row -> false; // it would be taken now, behind those that followed it
        take(a, 6, 8);
        drain();
        assertThat(store.rows("a").stream().map(Row::id))
                .doesNotHaveDuplicates()
                .hasSize(6);
        assertThat(status(A).account().difference()).isZero();
    }

    @Test
    void aLostLocalStoreMakesNoRowLandElsewhereOrTwiceAndTheLanesGoOn() throws Exception {
        RecorderDefinition a = recorder(A, "a", true, false);
        RecorderDefinition b = recorder(B, "b", false, true);
        take(a, 1, 51);
        take(b, 1, 51);
        drain();
        store.away = true;
        take(a, 51, 101);
        take(b, 51, 101);
        until(() -> status(A).state() == LaneState.HOLDING);
        close();
        remove(folder.resolve("local.db"), folder.resolve("local.db-wal"), folder.resolve("local.db-shm"));
        epoch++;
        open();
        assertThat(writer.said()).anyMatch(line -> line.words().contains("knows nothing of the journal"));
        store.away = false;
        take(b, 101, 111); // the recorders are designed anew, in another order
        take(a, 101, 111);
        drain();
        assertThat(store.rows("a"))
                .hasSize(110)
                .allMatch(row -> row.id().recorder().equals(A));
        assertThat(store.rows("b"))
                .hasSize(110)
                .allMatch(row -> row.id().recorder().equals(B));
        assertThat(store.rows("a").stream().map(Row::id)).doesNotHaveDuplicates();
        assertThat(store.rows("b").stream().map(Row::id)).doesNotHaveDuplicates();
        assertThat(status(A).account().difference()).isZero();
    }

    @Test
    void aLostJournalIsSaidAndCountedAndNewRowsAreNotTakenForOldOnes() throws Exception {
        RecorderDefinition a = recorder(A, "a", true, false);
        take(a, 1, 51);
        drain();
        store.away = true;
        take(a, 51, 71);
        until(() -> status(A).state() == LaneState.HOLDING);
        close();
        try (Stream<Path> all = Files.walk(folder.resolve("journal"))) {
            all.sorted(Comparator.reverseOrder()).forEach(WhateverTheLocalDiskDoesTest::removeOne);
        }
        epoch++;
        open();
        assertThat(writer.said()).anyMatch(line -> line.words().contains("is lost"));
        store.away = false;
        take(a, 1, 11);
        drain();
        assertThat(store.rows("a")).hasSize(60);
        Account account = status(A).account();
        assertThat(account.lost()).isEqualTo(20);
        assertThat(account.landed()).isEqualTo(60);
        assertThat(account.difference()).isZero();
    }

    @Test
    void twoInstallationsWithOneConfigurationLandAllTheirRows() throws Exception {
        RecorderDefinition byMark = recorder(A, "a", false, true);
        take(byMark, 1, 51);
        drain();
        close();
        folder = Files.createDirectory(folder.resolve("second"));
        epoch = 50; // drawn a name that may sort before or after, and an older epoch
        open();
        take(byMark, 1, 51);
        drain();
        assertThat(store.rows("a")).hasSize(100);
    }

    @Test
    void aLastRowThatIsAlteredOnDiskIsCountedAndKeepsNobodysRoom() throws Exception {
        RecorderDefinition quiet = recorder(A, "a", true, false);
        RecorderDefinition busy = recorder(B, "b", true, false);
        store.away = true;
        take(quiet, 1, 2);
        take(busy, 1, 301);
        onDisk();
        close();
        flip("-" + A + "-");
        epoch++;
        open();
        store.away = false;
        take(busy, 301, 601);
        drain();
        assertThat(status(A).account().damaged()).isEqualTo(1);
        adds(A, 0, 0);
        adds(B, 600, 0);
        until(() -> journal.first() > 0);
    }

    @Test
    void rowsWhoseDesignIsAlteredOnDiskAreWrittenAllTheSame() throws Exception {
        store.away = true;
        take(recorder(A, "a", true, false), 1, 11);
        onDisk();
        close();
        flip("Recorder " + A);
        epoch++;
        open();
        store.away = false;
        drain();
        assertThat(sequences("a")).isEqualTo(upTo(10));
        adds(A, 10, 0);
    }

    @Test
    void aRowThatWasSetAsideBeforeTheMarkWentOnIsNotCountedAsLandedAfterACrash() throws Exception {
        RecorderDefinition byMark = recorder(A, "a", false, true);
        take(byMark, 1, 3);
        drain();
        Settled before = local.settled(A + ":dest");
        store.refused = row -> row.id().sequence() == 4;
        take(byMark, 3, 8);
        drain();
        adds(A, 6, 1);
        // What was settled since is not on disk, the row that is aside is.
        close();
        try (LocalStore crashed = new LocalStore(folder.resolve("local.db"))) {
            crashed.settle(Map.of(A + ":dest", before));
        }
        epoch++;
        open();
        drain();
        assertThat(sequences("a")).isEqualTo(List.of(1L, 2L, 3L, 5L, 6L, 7L));
        adds(A, 6, 1);
    }

    @Test
    void aFileIsComparedWithAllThatItsLastBatchMayHaveHeldHoweverManyRowsOthersHold() throws Exception {
        limits = new SegmentJournal.Limits(1 << 30, 0, 8 << 20, 1);
        batching = new Batching(10_000, Duration.ZERO);
        store = FakeStore.thatComparesEnds();
        restart();
        RecorderDefinition a = recorder(A, "a", true, false);
        List<RecorderDefinition> others = IntStream.range(0, 12)
                .mapToObj(n -> recorder("%08x".formatted(n + 1), "other" + n, true, false))
                .toList();
        take(a, 1, 3);
        drain();
        until(() -> local.settled(A + ":dest").nth() == 2); // as before every further batch to a file
        Settled before = local.settled(A + ":dest");
        store.thrower = batch -> {
            if (!batch.table().equals("a")) {
                throw new StoreProblem(StoreProblem.Kind.TABLE, 0, "It may not be written.", null);
            }
        };
        for (RecorderDefinition other : others) {
            take(other, 1, 601);
        }
        until(() -> others.stream().allMatch(other -> status(other.id()).state() == LaneState.FAULTED));
        for (RecorderDefinition other : others) {
            take(other, 601, 10_001);
        }
        take(a, 3, 10_003);
        onDisk();
        int transactions = store.transactions;
        until(() -> store.rows("a").size() == 10_002);
        assertThat(store.transactions).as("one batch").isEqualTo(transactions + 1);
        close();
        try (LocalStore crashed = new LocalStore(folder.resolve("local.db"))) {
            crashed.settle(Map.of(A + ":dest", before));
        }
        epoch++;
        open();
        store.thrower = batch -> {};
        drain();
        assertThat(sequences("a")).isEqualTo(upTo(10_002));
        adds(A, 10_002, 0);
        for (RecorderDefinition other : others) {
            adds(other.id(), 10_000, 0);
        }
    }

    /** Alters a byte of the first place in the journal where a text stands. */
    private void flip(String text) throws IOException {
        try (Stream<Path> all = Files.list(folder.resolve("journal"))) {
            for (Path file : all.sorted().toList()) {
                byte[] bytes = Files.readAllBytes(file);
                int at = new String(bytes, StandardCharsets.ISO_8859_1).indexOf(text);
                if (at >= 0) {
                    bytes[at] ^= 1;
                    Files.write(file, bytes);
                    return;
                }
            }
        }
        throw new IOException("Nowhere: " + text);
    }

    private static void remove(Path... files) throws IOException {
        for (Path file : files) {
            Files.deleteIfExists(file);
        }
    }

    private static void removeOne(Path file) {
        try {
            Files.delete(file);
        } catch (IOException e) {
            throw new java.io.UncheckedIOException(e);
        }
    }

    private static boolean waited(CountDownLatch hangs) {
        try {
            hangs.await();
            return true;
        } catch (InterruptedException stopped) {
            Thread.currentThread().interrupt();
            return false;
        }
    }
}
