package dachshund.office.definition;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.core.definition.Definition;
import dachshund.core.definition.DefinitionCodec;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.secret.SecretBox;
import dachshund.office.definition.LiveFile.Live;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.stream.IntStream;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What is live can be read back after every release, whatever became of the end of the file. */
class LiveFileTest {

    private static final SecretBox KEY = new SecretBox(new byte[32]);

    @TempDir
    Path var;

    private Path file;

    @BeforeEach
    void name() {
        file = var.resolve("live-definitions.sealed");
    }

    private static Definition thing(int n, String description) {
        return new DestinationDefinition(
                String.format("a%07x", n), "Files " + n, description, "folder", Map.of("folder", "f" + n));
    }

    private static List<Definition> things(int count) {
        return IntStream.range(0, count).mapToObj(n -> thing(n, "")).toList();
    }

    private Live read() throws IOException {
        return new LiveFile(var, KEY).read().orElseThrow();
    }

    private void holds(long release, List<Definition> definitions) throws IOException {
        Live live = read();
        assertThat(live.release()).isEqualTo(release);
        assertThat(live.definitions()).containsExactlyInAnyOrderElementsOf(definitions);
    }

    @Test
    void aReleaseAddsWhatItChangedAndNothingElse() throws IOException {
        List<Definition> all = new ArrayList<>(things(1000));
        LiveFile live = new LiveFile(var, KEY);
        live.write(new Live(1, all));
        holds(1, all);
        long before = Files.size(file);
        all.set(500, thing(500, "changed"));
        all.remove(3);
        all.add(thing(1000, "new"));
        live.write(new Live(2, all));
        assertThat(Files.size(file) - before).isLessThan(before / 100);
        holds(2, all);
        long after = Files.size(file);
        new LiveFile(var, KEY).write(new Live(2, all));
        assertThat(Files.size(file)).as("nothing differs").isEqualTo(after);
    }

    @Test
    void manyReleasesMakeItNoLargerThanAFewTimesWhatItHolds() throws IOException {
        Random random = new Random(7);
        LiveFile live = new LiveFile(var, KEY);
        List<Definition> all = new ArrayList<>(things(300));
        long largest = 0;
        for (int release = 1; release <= 200; release++) {
            for (int n = 0; n < 60; n++) {
                int which = random.nextInt(all.size());
                all.set(which, thing(which, "release " + release + " " + "x".repeat(2000)));
            }
            live.write(new Live(release, all));
            largest = Math.max(largest, Files.size(file));
        }
        holds(200, all);
        assertThat(largest).isLessThan(4 << 20);
    }

    /** Cut anywhere, it holds one of the two releases, whole, and the next release is written behind it. */
    @Test
    void whateverIsCutOffOfTheLastReleaseIsAsIfItHadNotBeenWritten() throws IOException {
        List<Definition> first = things(600);
        List<Definition> second = IntStream.range(0, 600)
                .mapToObj(n -> thing(n, n < 250 ? "second" : ""))
                .toList();
        List<Definition> third = new ArrayList<>(first);
        third.set(0, thing(0, "third"));
        LiveFile live = new LiveFile(var, KEY);
        live.write(new Live(1, first));
        int whole = (int) Files.size(file);
        live.write(new Live(2, second));
        byte[] bytes = Files.readAllBytes(file);
        for (int end = whole; end <= bytes.length; end += Math.max(1, (bytes.length - whole) / 97)) {
            Files.write(file, Arrays.copyOf(bytes, end));
            holds(end == bytes.length ? 2 : 1, end == bytes.length ? second : first);
            new LiveFile(var, KEY).write(new Live(3, third));
            holds(3, third);
        }
    }

    @Test
    void aByteThatIsAnotherOrAPartThatWasTakenOutIsSaid() throws IOException {
        LiveFile live = new LiveFile(var, KEY);
        live.write(new Live(1, things(3)));
        int whole = (int) Files.size(file);
        live.write(new Live(2, things(4)));
        int two = (int) Files.size(file);
        live.write(new Live(3, things(5)));
        byte[] bytes = Files.readAllBytes(file);
        byte[] flipped = bytes.clone();
        flipped[whole + 40] ^= 1;
        Files.write(file, flipped);
        assertThatThrownBy(this::read).isInstanceOf(IOException.class).hasMessageContaining("cannot be read");
        byte[] without = new byte[whole + bytes.length - two];
        System.arraycopy(bytes, 0, without, 0, whole);
        System.arraycopy(bytes, two, without, whole, bytes.length - two);
        Files.write(file, without);
        assertThatThrownBy(this::read).hasMessageContaining("part 1 is missing");
        new LiveFile(var, KEY).write(new Live(4, things(2)));
        holds(4, things(2));
    }

    @Test
    void aFileThatSomebodyCutOrTookAwayWhileItRunsIsWrittenAnew() throws IOException {
        LiveFile live = new LiveFile(var, KEY);
        List<Definition> all = new ArrayList<>(things(20));
        live.write(new Live(1, all));
        Files.write(file, Arrays.copyOf(Files.readAllBytes(file), 50));
        all.set(0, thing(0, "changed"));
        live.write(new Live(2, all));
        holds(2, all);
        Files.delete(file);
        live.write(new Live(2, all));
        holds(2, all);
    }

    @Test
    void aFileOfBeforeIsReadAndWrittenAnewAtTheNextRelease() throws IOException {
        String[] documents = things(2).stream().map(DefinitionCodec::write).toArray(String[]::new);
        Files.write(
                file, KEY.seal(new ObjectMapper().writeValueAsBytes(Map.of("release", 7, "definitions", documents))));
        holds(7, things(2));
        new LiveFile(var, KEY).write(new Live(8, things(3)));
        holds(8, things(3));
    }
}
