package dachshund.engine.thread;

import static org.assertj.core.api.Assertions.assertThat;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;

/** The share of the processor, as the system itself says (proc(5), field 19 of stat), of what a page with the lower one begins. */
class RecordingThreadTest {

    private static final Path OWN = Path.of("/proc/thread-self/stat");

    private static int nice() throws IOException {
        String stat = Files.readString(OWN);
        return Integer.parseInt(stat.substring(stat.lastIndexOf(')') + 2).split(" ")[16]);
    }

    private static void makeLess() throws Exception {
        String stat = Files.readString(OWN);
        Process process = new ProcessBuilder("renice", "-n", "10", "-p", stat.substring(0, stat.indexOf(' ')))
                .redirectOutput(ProcessBuilder.Redirect.DISCARD)
                .start();
        assertThat(process.waitFor(60, TimeUnit.SECONDS)).isTrue();
        assertThat(nice()).isEqualTo(10);
    }

    private interface Work {
        void run() throws Exception;
    }

    /** As a thread of a page would. */
    private static void asPage(Work work) throws Exception {
        CompletableFuture<Void> done = new CompletableFuture<>();
        new Thread(() -> {
                    try {
                        makeLess();
                        work.run();
                        done.complete(null);
                    } catch (Exception | Error failed) {
                        done.completeExceptionally(failed);
                    }
                })
                .start();
        done.get(60, TimeUnit.SECONDS);
    }

    private static int niceIn(ExecutorService pool) throws Exception {
        try {
            return pool.submit(RecordingThreadTest::nice).get(60, TimeUnit.SECONDS);
        } finally {
            pool.shutdownNow();
        }
    }

    @Test
    void whatRecordsHasTheWholeShareThoughAPageBeganIt() throws Exception {
        assumeTrue(Files.exists(OWN), "shares of threads are told by Linux");
        // The engine is there before its pages.
        int whole = niceIn(Threads.onDemand("first"));
        assertThat(whole).isEqualTo(nice()).isLessThan(10);
        asPage(() -> {
            assertThat(niceIn(Threads.pool("link", 1))).isEqualTo(whole);
            assertThat(niceIn(Threads.actions("action", 1))).isEqualTo(whole);
            assertThat(niceIn(Threads.onDemand("transaction"))).isEqualTo(whole);
            CompletableFuture<Integer> ofWorker = new CompletableFuture<>();
            Worker worker = Threads.start("writer", () -> {
                try {
                    ofWorker.complete(nice());
                } catch (IOException cannot) {
                    ofWorker.completeExceptionally(cannot);
                }
                return Long.MAX_VALUE;
            });
            assertThat(ofWorker.get(60, TimeUnit.SECONDS)).isEqualTo(whole);
            worker.close();
            // What people ask gives way as their pages do.
            assertThat(niceIn(Threads.onDemandOfPages("answers"))).isEqualTo(10);
        });
    }

    @Test
    void whoIsInterruptedStartsItAllTheSame() throws Exception {
        Thread.currentThread().interrupt();
        ExecutorService pool = Threads.onDemand("any");
        CompletableFuture<String> ran =
                CompletableFuture.supplyAsync(() -> Thread.currentThread().getName(), pool);
        assertThat(Thread.interrupted()).isTrue();
        assertThat(ran.get(60, TimeUnit.SECONDS)).isEqualTo("any-1");
        pool.shutdownNow();
    }
}
