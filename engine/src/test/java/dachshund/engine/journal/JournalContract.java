package dachshund.engine.journal;

import static dachshund.engine.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What any journal must keep. */
abstract class JournalContract {

    @TempDir
    Path folder;

    abstract Journal open(Path folder);

    static byte[] bytes(int n) {
        return ("row " + n + " " + "x".repeat(n % 97)).getBytes(StandardCharsets.UTF_8);
    }

    static final Journal.Design DESIGN = new Journal.Design(4711, "a design".getBytes(StandardCharsets.UTF_8));

    static long append(Journal journal, int n) throws Journal.Full {
        return journal.append("aaaaaaaa", Journal.Kind.ROW, 1, DESIGN, bytes(n));
    }

    static void append(Journal journal, int from, int to) throws Journal.Full {
        for (int n = from; n < to; n++) {
            append(journal, n);
        }
    }

    static List<String> readAll(Journal journal, long from) {
        Journal.Reader reader = journal.read(from);
        List<String> all = new ArrayList<>();
        for (Journal.Entry entry = reader.next(); entry != null; entry = reader.next()) {
            if (entry.nth() > 0) {
                all.add(new String(entry.body(), StandardCharsets.UTF_8));
            }
        }
        return all;
    }

    static List<String> expected(int from, int to) {
        List<String> all = new ArrayList<>();
        for (int n = from; n < to; n++) {
            all.add(new String(bytes(n), StandardCharsets.UTF_8));
        }
        return all;
    }

    @Test
    void entriesComeBackInOrderOnceTheyAreDurable() throws Exception {
        try (Journal journal = open(folder)) {
            long before = journal.durable();
            assertThat(append(journal, 0)).isEqualTo(1);
            assertThat(before).isEqualTo(journal.first());
            append(journal, 1, 5000);
            soon(() -> readAll(journal, 0).size() == 5000);
            assertThat(readAll(journal, 0)).isEqualTo(expected(0, 5000));
        }
    }

    @Test
    void closingMakesDurableAndOpeningGoesOnWhereItEnded() throws Exception {
        try (Journal journal = open(folder)) {
            append(journal, 0, 1000);
        }
        try (Journal journal = open(folder)) {
            assertThat(readAll(journal, 0)).isEqualTo(expected(0, 1000));
            append(journal, 1000, 1500);
            soon(() -> readAll(journal, 0).size() == 1500);
            assertThat(readAll(journal, 0)).isEqualTo(expected(0, 1500));
        }
    }

    @Test
    void aReaderGoesOnFromAPositionAndSeesWhatComesLater() throws Exception {
        try (Journal journal = open(folder)) {
            append(journal, 0, 100);
            soon(() -> readAll(journal, 0).size() == 100);
            Journal.Reader reader = journal.read(0);
            Journal.Entry last = null;
            for (int i = 0; i < 61; i++) {
                last = reader.next(); // the design and sixty rows
            }
            assertThat(readAll(journal, last.next())).isEqualTo(expected(60, 100));
            append(journal, 100, 140);
            soon(() -> readAll(journal, 0).size() == 140);
            int rest = 0;
            for (Journal.Entry entry = reader.next(); entry != null; entry = reader.next()) {
                rest += entry.nth() > 0 ? 1 : 0;
            }
            assertThat(rest).isEqualTo(80);
        }
    }

    @Test
    void releasingGivesSpaceBackAndKeepsWhatIsNeeded() throws Exception {
        try (Journal journal = open(folder)) {
            for (int round = 0; round < 20; round++) {
                append(journal, round * 500, round * 500 + 500);
                long wanted = (round + 1) * 500L;
                soon(() -> readAll(journal, 0).size() == wanted);
            }
            Journal.Reader reader = journal.read(0);
            Journal.Entry entry = null;
            for (int i = 0; i < 9000; ) {
                entry = reader.next();
                i += entry.nth() > 0 ? 1 : 0;
            }
            long before = journal.size();
            journal.release(entry.next());
            soon(() -> journal.size() < before / 2);
            assertThat(readAll(journal, entry.next())).isEqualTo(expected(9000, 10_000));
        }
    }
}
