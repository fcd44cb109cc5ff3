package dachshund.web.setup;

import dachshund.engine.thread.Threads;
import dachshund.engine.thread.Worker;
import dachshund.office.work.Works;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.boot.context.event.ApplicationReadyEvent;
import org.springframework.context.event.ContextClosedEvent;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;

/**
 * Recording comes first: the threads that make pages get a lower share of the processor. Java's own priorities do nothing on
 * Linux, so each such thread is given a nice value by its number, which needs no privilege. Where that is not to be had,
 * nothing changes.
 */
@Component
class PagesGiveWay {

    private static final Logger LOG = LoggerFactory.getLogger(PagesGiveWay.class);
    private static final Path TASKS = Path.of("/proc/self/task");
    /** How the names of threads that serve pages begin; the system keeps 15 letters. */
    private static final String SERVING = "http-nio";

    /** The same of others that work for somebody who looks. */
    private static final List<String> WORKING = List.of(Works.THREADS + "-", "recent-past-", "api-stream-");

    private static final String NICE = "10";
    private static final long EVERY_NANOS = 5_000_000_000L;

    private final Set<String> given = new HashSet<>();
    private Worker worker;

    @EventListener(ApplicationReadyEvent.class)
    synchronized void begin() {
        if (worker == null && Files.isDirectory(TASKS)) {
            worker = Threads.start("pages-give-way", () -> give() ? EVERY_NANOS : Long.MAX_VALUE);
        }
    }

    private static boolean ofPages(String name) {
        return name.startsWith(SERVING) || WORKING.stream().anyMatch(name::startsWith);
    }

    /** False where it cannot be done. */
    private boolean give() {
        List<String> fresh = new ArrayList<>();
        try (Stream<Path> tasks = Files.list(TASKS)) {
            tasks.forEach(task -> {
                String thread = String.valueOf(task.getFileName());
                if (!given.contains(thread) && ofPages(name(task))) {
                    fresh.add(thread);
                }
            });
            if (fresh.isEmpty()) {
                return true;
            }
            List<String> command = new ArrayList<>(List.of("renice", "-n", NICE, "-p"));
            command.addAll(fresh);
            Process process = new ProcessBuilder(command)
                    .redirectErrorStream(true)
                    .redirectOutput(ProcessBuilder.Redirect.DISCARD)
                    .start();
            if (!process.waitFor(5, TimeUnit.SECONDS)) {
                process.destroy();
            }
            given.addAll(fresh);
            return true;
        } catch (IOException notHere) {
            LOG.info("Pages and recording share the processor alike here: {}", notHere.getMessage());
            return false;
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
            return false;
        }
    }

    private static String name(Path task) {
        try {
            return Files.readString(task.resolve("comm")).strip();
        } catch (IOException gone) {
            return "";
        }
    }

    @EventListener(ContextClosedEvent.class)
    synchronized void end() {
        if (worker != null) {
            worker.close();
        }
    }
}
