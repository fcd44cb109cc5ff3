package dachshund.engine.journal;

import static org.assertj.core.api.Assertions.assertThat;
import static org.awaitility.Awaitility.await;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

class SegmentJournalTest extends JournalContract {

    private static final SegmentJournal.Limits SMALL = new SegmentJournal.Limits(1 << 30, 0, 20_000, 5);

    @Override
    Journal open(Path folder) {
        return new SegmentJournal(folder, SMALL, () -> {});
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
        int cutBefore = bytes(19).length + bytes(18).length + 16;
        for (int cut = whole.length - cutBefore; cut < whole.length; cut++) {
            Files.write(file, java.util.Arrays.copyOf(whole, cut));
            try (Journal journal = open(folder)) {
                int kept = cut < whole.length - bytes(19).length - 8 ? 18 : 19;
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
                await().until(() -> readAll(journal, 0).size() == wanted);
            }
        }
        Path first = files().get(0);
        byte[] altered = Files.readAllBytes(first);
        altered[altered.length / 2] ^= 1;
        Files.write(first, altered);
        try (Journal journal = open(folder)) {
            List<String> read = readAll(journal, 0);
            assertThat(journal.damaged()).isEqualTo(1);
            assertThat(read).hasSizeLessThan(2000).endsWith(expected(1500, 2000).toArray(String[]::new));
            assertThat(read).doesNotHaveDuplicates();
        }
    }

    @Test
    void aFullJournalSaysSoAndTakesRowsAgainWhenThereIsRoom() throws Exception {
        try (Journal journal = new SegmentJournal(folder, new SegmentJournal.Limits(50_000, 0, 5_000, 5), () -> {})) {
            Journal.Full[] refusal = new Journal.Full[1];
            await().until(() -> {
                try {
                    append(journal, 0, 50);
                    return false;
                } catch (Journal.Full full) {
                    refusal[0] = full;
                    return true;
                }
            });
            assertThat(refusal[0]).hasMessageContaining("is full");
            await().until(() -> {
                journal.release(journal.durable());
                try {
                    journal.append(bytes(1));
                    return true;
                } catch (Journal.Full stillFull) {
                    return false;
                }
            });
        }
    }
}
