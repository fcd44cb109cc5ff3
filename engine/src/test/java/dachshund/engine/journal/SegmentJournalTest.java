package dachshund.engine.journal;

import static dachshund.engine.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.AdditionalAnswers.delegatesTo;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.doReturn;
import static org.mockito.Mockito.mock;

import dachshund.engine.thread.Hands;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class SegmentJournalTest extends JournalContract {

    private static final SegmentJournal.Limits SMALL = new SegmentJournal.Limits(1 << 30, 0, 20_000, 5);

    @Override
    Journal open(Path folder) {
        return new SegmentJournal(folder, SMALL, "0a1b2c", SegmentJournal.Known.NOTHING, () -> {});
    }

    private static int frame(int n) {
        return Frame.size("aaaaaaaa".getBytes(java.nio.charset.StandardCharsets.UTF_8), bytes(n));
    }

    private SegmentJournal open(SegmentJournal.Known known) {
        return new SegmentJournal(folder, SMALL, "0a1b2c", known, () -> {});
    }

    private List<Path> files() throws Exception {
        try (Stream<Path> all = Files.list(folder)) {
            return all.sorted().toList();
        }
    }

    @Test
    void anEndTornAtAnyByteLosesOnlyTheTornEntry() throws Exception {
        try (Journal journal = open(folder)) {
            append(journal, 0, 20);
        }
        Path file = files().get(0);
        byte[] whole = Files.readAllBytes(file);
        int cutBefore = frame(19) + frame(18);
        for (int cut = whole.length - cutBefore; cut < whole.length; cut++) {
            Files.write(file, java.util.Arrays.copyOf(whole, cut));
            try (Journal journal = open(folder)) {
                int kept = cut < whole.length - frame(19) ? 18 : 19;
                assertThat(readAll(journal, 0)).as("cut at %d", cut).isEqualTo(expected(0, kept));
                append(journal, 900, 901);
            }
            try (Journal journal = open(folder)) {
                assertThat(readAll(journal, 0))
                        .last()
                        .isEqualTo(expected(900, 901).get(0));
            }
        }
    }

    @Test
    void anAlteredByteIsNoticedCountedAndDoesNotStopTheRest() throws Exception {
        try (Journal journal = open(folder)) {
            for (int round = 0; round < 4; round++) {
                append(journal, round * 500, round * 500 + 500);
                int wanted = round * 500 + 500;
                soon(() -> readAll(journal, 0).size() == wanted);
            }
        }
        Path first = files().get(0);
        byte[] altered = Files.readAllBytes(first);
        altered[altered.length / 2] ^= 1;
        Files.write(first, altered);
        try (Journal journal = open(folder)) {
            List<String> read = readAll(journal, 0);
            assertThat(journal.damage()).hasSize(1);
            assertThat(read).hasSize(1999).endsWith(expected(1500, 2000).toArray(String[]::new));
            assertThat(read).doesNotHaveDuplicates();
        }
    }

    /** As in a tree whose root is no mount point. */
    @Test
    void whereNobodyKnowsHowMuchRoomIsLeftRowsAreTakenAndThatIsSaid() throws Exception {
        Disk unknown = mock(Disk.class, delegatesTo(Disk.OF_THE_MACHINE));
        doReturn(0L).when(unknown).room(any());
        try (SegmentJournal journal = new SegmentJournal(
                folder,
                unknown,
                Hands.THREADS,
                new SegmentJournal.Limits(1 << 30, 1L << 30, 20_000, 5),
                "0a1b2c",
                SegmentJournal.Known.NOTHING,
                () -> {})) {
            append(journal, 0, 50);
            soon(() -> readAll(journal, 0).size() == 50);
            soon(() -> journal.remark().startsWith("How much room the disk under "));
            append(journal, 50, 100);
            soon(() -> readAll(journal, 0).size() == 100);
        }
    }

    @Test
    void aFullJournalSaysSoAndTakesRowsAgainWhenThereIsRoom() throws Exception {
        try (Journal journal = new SegmentJournal(
                folder,
                new SegmentJournal.Limits(50_000, 0, 5_000, 5),
                "0a1b2c",
                SegmentJournal.Known.NOTHING,
                () -> {})) {
            // Without a pause, so that there is always something more to be written.
            soon(() -> {
                long until = System.nanoTime() + 1_000_000_000L;
                while (System.nanoTime() < until) {
                    try {
                        append(journal, 0, 50);
                    } catch (Journal.Full full) {
                        if (full.getMessage().contains("is full")) {
                            return true;
                        }
                    }
                }
                return false;
            });
            assertThat(journal.size())
                    .as("bytes at most, beside what was waiting to be written")
                    .isLessThan(40 << 20);
            soon(() -> {
                journal.release(journal.durable());
                try {
                    append(journal, 1);
                    return true;
                } catch (Journal.Full stillFull) {
                    return false;
                }
            });
        }
    }

    @Test
    void behindAnyAlteredByteOfTheOpenFileTheRestIsFoundAgainAndNothingBeginsBelow() throws Exception {
        try (Journal journal = open(folder)) {
            append(journal, 0, 60);
        }
        Path file = files().get(0);
        byte[] whole = Files.readAllBytes(file);
        for (int at = SegmentFile.HEAD; at < whole.length - frame(59); at += 7) {
            byte[] altered = whole.clone();
            altered[at] ^= 0x40;
            Files.write(file, altered);
            try (SegmentJournal journal = open(new SegmentJournal.Known("", 0))) {
                List<String> read = readAll(journal, 0);
                assertThat(read)
                        .as("altered at %d", at)
                        .hasSizeBetween(59, 60)
                        .endsWith(expected(59, 60).get(0));
                assertThat(journal.last("aaaaaaaa")).as("goes on counting").isEqualTo(60);
                assertThat(journal.durable()).isEqualTo(whole.length - SegmentFile.HEAD);
            }
        }
    }

    @Test
    void aJournalOlderThanWhatWasSettledBeginsBehindIt() throws Exception {
        String id;
        try (SegmentJournal journal = open(SegmentJournal.Known.NOTHING)) {
            append(journal, 0, 10);
            id = journal.id();
        }
        try (SegmentJournal journal = open(new SegmentJournal.Known(id, 1_000_000))) {
            assertThat(journal.opened()).isEqualTo(SegmentJournal.Opened.OLDER);
            append(journal, 10, 20);
            soon(() -> readAll(journal, 1_000_000).size() == 10);
            assertThat(readAll(journal, 0)).hasSize(20);
        }
    }

    @Test
    void whatWasKnownAndIsNotThereIsLostAndWhatIsThereAndWasNotKnownIsSaid() throws Exception {
        try (SegmentJournal journal = open(new SegmentJournal.Known("0123456789abcdef", 500))) {
            assertThat(journal.opened()).isEqualTo(SegmentJournal.Opened.LOST);
            assertThat(journal.durable()).isEqualTo(500);
            append(journal, 0, 5);
        }
        try (SegmentJournal journal = open(SegmentJournal.Known.NOTHING)) {
            assertThat(journal.opened()).isEqualTo(SegmentJournal.Opened.UNKNOWN);
            assertThat(journal.design(DESIGN.key())).hasValue(DESIGN.document());
        }
    }

    @Test
    void sealedFilesSayWhatTheyHoldAndAnUnsealedOneIsTakenStockOf() throws Exception {
        try (SegmentJournal journal = open(SegmentJournal.Known.NOTHING)) {
            for (int n = 0; n < 1500; n += 50) {
                append(journal, n, n + 50);
                int wanted = n + 50;
                soon(() -> readAll(journal, 0).size() == wanted);
            }
        }
        assertThat(files()).hasSizeGreaterThan(3);
        Path second = files().get(1);
        byte[] whole = Files.readAllBytes(second);
        Files.write(second, java.util.Arrays.copyOf(whole, whole.length - 3)); // its summary is torn
        try (SegmentJournal journal = open(SegmentJournal.Known.NOTHING)) {
            assertThat(journal.stretches("aaaaaaaa").stream()
                            .mapToLong(Journal.Stretch::entries)
                            .sum())
                    .isEqualTo(1500);
            assertThat(readAll(journal, 0)).isEqualTo(expected(0, 1500));
        }
    }

    @Test
    void whatSomebodyElseLeftBesideTheRoomsIsNone() throws Exception {
        Path apart = folder.resolve("apart");
        Files.createDirectories(apart.resolve("bbbbbbbb"));
        Files.writeString(apart.resolve("read.me"), "not ours");
        Files.writeString(apart.resolve("bbbbbbbb").resolve("desktop.ini"), "not ours");
        try (SegmentJournal journal = open(SegmentJournal.Known.NOTHING)) {
            assertThat(OwnRoom.lanes(journal)).containsExactly("bbbbbbbb");
            assertThat(OwnRoom.of(journal, "bbbbbbbb").isEmpty()).isTrue();
        }
    }

    @Test
    void aJournalWhoseLastFileWasEndedAndNoOtherBegunGoesOnBehindIt() throws Exception {
        String id;
        try (SegmentJournal journal = open(SegmentJournal.Known.NOTHING)) {
            id = journal.id();
            for (int n = 0; n < 1500; n += 50) {
                append(journal, n, n + 50);
                int wanted = n + 50;
                soon(() -> readAll(journal, 0).size() == wanted);
            }
        }
        List<Path> all = files();
        Files.delete(all.get(all.size() - 1)); // the power went before it was begun
        try (SegmentJournal journal = open(new SegmentJournal.Known(id, 0))) {
            int kept = readAll(journal, 0).size();
            assertThat(kept).isPositive();
            append(journal, 1500, 1520);
            soon(() -> readAll(journal, 0).size() == kept + 20);
            assertThat(readAll(journal, 0))
                    .startsWith(expected(0, kept).toArray(String[]::new))
                    .endsWith(expected(1500, 1520).toArray(String[]::new));
        }
    }

    @Test
    void whatWasAppendedOutlivesTheProcessThoughNothingIsForcedForLong(@TempDir Path copy) throws Exception {
        SegmentJournal.Limits rarely = new SegmentJournal.Limits(1 << 30, 0, 20_000, 600_000);
        try (SegmentJournal journal =
                new SegmentJournal(folder, rarely, "0a1b2c", SegmentJournal.Known.NOTHING, () -> {})) {
            for (int n = 0; n < 30; n += 10) {
                append(journal, n, n + 10);
                int wanted = n + 10;
                soon(() -> {
                    try (Stream<Path> there = Files.list(folder)) {
                        for (Path file : there.toList()) {
                            Files.copy(file, copy.resolve(file.getFileName()), StandardCopyOption.REPLACE_EXISTING);
                        }
                    }
                    try (Journal killed = open(copy)) {
                        return readAll(killed, 0).equals(expected(0, wanted));
                    }
                });
            }
            assertThat(readAll(journal, 0))
                    .as("forced once, at the start, while the first ten came")
                    .hasSizeLessThanOrEqualTo(10);
        }
        try (Journal journal = open(folder)) {
            assertThat(readAll(journal, 0)).isEqualTo(expected(0, 30));
        }
    }

    @Test
    void aJournalWhoseOnlyHeadIsAlteredIsStillTheOneThatWasKnown() throws Exception {
        String id;
        try (SegmentJournal journal = open(SegmentJournal.Known.NOTHING)) {
            id = journal.id();
            append(journal, 0, 10);
        }
        byte[] altered = Files.readAllBytes(files().get(0));
        altered[16] ^= 1;
        Files.write(files().get(0), altered);
        try (SegmentJournal journal = open(new SegmentJournal.Known(id, 0))) {
            assertThat(journal.opened()).isEqualTo(SegmentJournal.Opened.SAME);
            assertThat(journal.id()).isEqualTo(id);
            assertThat(readAll(journal, 0)).isEqualTo(expected(0, 10));
            assertThat(journal.damage()).hasSize(1);
        }
    }

    @Test
    void rowsOfALaneThatStandsMoveToRoomOfTheirOwn() throws Exception {
        try (SegmentJournal journal = open(SegmentJournal.Known.NOTHING)) {
            for (int n = 0; n < 1500; n += 50) {
                append(journal, n, n + 50);
                journal.append("bbbbbbbb", Journal.Kind.ROW, 1, DESIGN, bytes(n));
                int wanted = (n + 50) / 50 * 51;
                soon(() -> readAll(journal, 0).size() == wanted);
            }
            OwnRoom room = OwnRoom.of(journal, "bbbbbbbb");
            List<String> before = new java.util.ArrayList<>();
            long upTo = journal.durable() / 2;
            room.take(journal, 0, upTo);
            long behind = room.end();
            assertThat(behind).isPositive().isLessThanOrEqualTo(upTo);
            journal.release(behind);
            soon(() -> journal.first() >= behind);
            Journal.Reader reader = room.read(0);
            for (Journal.Entry entry = reader.next(); entry != null; entry = reader.next()) {
                if (entry.nth() > 0) {
                    before.add(new String(entry.body(), java.nio.charset.StandardCharsets.UTF_8));
                    assertThat(entry.lane()).isEqualTo("bbbbbbbb");
                }
            }
            assertThat(before)
                    .hasSizeGreaterThan(3)
                    .isEqualTo(java.util.stream.IntStream.range(0, before.size())
                            .mapToObj(i -> new String(bytes(i * 50), java.nio.charset.StandardCharsets.UTF_8))
                            .toList());
            assertThat(OwnRoom.lanes(journal)).containsExactly("bbbbbbbb");
            room.release(Long.MAX_VALUE);
            assertThat(OwnRoom.lanes(journal)).isEmpty();
        }
    }
}
