package dachshund.web;

import static dachshund.web.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

/** Threads that make pages have the lower share of the processor, as the system itself says (proc(5), field 19 of stat). */
class RecordingComesFirstTest {

    @Test
    void threadsOfPagesGiveWayToThoseThatRecord() throws Exception {
        new Visitor(Site.demo()).get("/sign-in");
        soon(() -> {
            List<Integer> ofPages = niceOf("http-nio");
            return !ofPages.isEmpty() && ofPages.stream().allMatch(each -> each == 10);
        });
        for (String recording : List.of("writer-", "journal-", "schedule", "link-")) {
            assertThat(niceOf(recording)).as(recording).isNotEmpty().containsOnly(0);
        }
    }

    /** Nice values of the threads of this process whose names begin so; the system keeps 15 letters of a name. */
    private static List<Integer> niceOf(String begin) throws IOException {
        Map<String, Integer> found = new TreeMap<>();
        try (Stream<Path> tasks = Files.list(Path.of("/proc/self/task"))) {
            for (Path task : tasks.toList()) {
                try {
                    if (Files.readString(task.resolve("comm")).startsWith(begin)) {
                        String stat = Files.readString(task.resolve("stat"));
                        String[] fields =
                                stat.substring(stat.lastIndexOf(')') + 2).split(" ");
                        found.put(task.toString(), Integer.parseInt(fields[16]));
                    }
                } catch (IOException ended) {
                    // A thread that is over has no share.
                }
            }
        }
        return List.copyOf(found.values());
    }
}
