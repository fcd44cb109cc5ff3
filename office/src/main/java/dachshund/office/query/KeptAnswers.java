package dachshund.office.query;

import dachshund.core.destination.StoreProblem;
import dachshund.engine.thread.Threads;
import dachshund.engine.thread.Worker;
import dachshund.office.own.DachshundSettings;
import jakarta.annotation.PreDestroy;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.SecureRandom;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.Iterator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Autowired;
import org.springframework.stereotype.Component;

/**
 * Answers that somebody has before them: asked once, their rows in a file each, gone when nobody looks any more. So many run at
 * once at most that a database has connections left for pages.
 */
@Component
public class KeptAnswers {

    private static final Logger LOG = LoggerFactory.getLogger(KeptAnswers.class);

    /** No more rows of one answer are kept; a file has all. */
    public static final long MOST_ROWS = 1_000_000;

    /** For so long an answer may come. */
    static final Duration LIMIT = Duration.ofMinutes(10);

    private static final long MOST_BYTES = 200_000_000L;
    /** Of all that are over; the oldest go first. */
    private static final long MOST_BYTES_OF_ALL = 1_000_000_000L;
    /** Answers never take the last of a disk: rows that wait for a database need it. */
    private static final long LEAVES_FREE = 2_000_000_000L;

    private static final int MOST_AT_ONCE = 4;
    /** Whoever asks more has their oldest taken away. */
    private static final int MOST_OF_ONE = 6;

    private static final int RUNNING_OF_ONE = 2;
    private static final int MOST_OF_ALL = 60;
    private static final long UNSEEN_NANOS = TimeUnit.MINUTES.toNanos(10);
    /** One that still comes ends sooner, when its page is gone: pages ask how far it is each second, hidden ones each minute. */
    private static final long LEFT_NANOS = TimeUnit.SECONDS.toNanos(100);

    private final Path folder;
    private final ThreadPoolExecutor threads = Threads.onDemandOfPages("answers");
    private final SecureRandom random = new SecureRandom();
    private final Map<String, KeptAnswer> answers = new LinkedHashMap<>();
    private final Worker sweeper;

    @Autowired
    KeptAnswers(DachshundSettings settings) {
        this(settings.var().resolve("answers"));
    }

    KeptAnswers(Path folder) {
        this.folder = folder;
        // What was left by a process that was killed.
        if (Files.isDirectory(folder)) {
            try (Stream<Path> left = Files.list(folder)) {
                for (Path each : left.toList()) {
                    Files.deleteIfExists(each);
                }
            } catch (IOException cannot) {
                LOG.warn("What was left in {} could not be removed: {}", folder, cannot.getMessage());
            }
        }
        sweeper = Threads.start("answers-unseen", () -> {
            sweep(UNSEEN_NANOS, LEFT_NANOS);
            return TimeUnit.SECONDS.toNanos(5);
        });
    }

    /**
     * Begins to ask.
     *
     * @param name what is asked, as people call it; may be empty
     * @param by   whoever will look at it
     * @throws StoreProblem where too much is being asked already, or its rows cannot be kept
     */
    public KeptAnswer ask(Asked asked, String name, String by) throws StoreProblem {
        if (scarce()) {
            throw problem(
                    "The disk of this installation has less than " + LEAVES_FREE / 1_000_000_000
                            + " GB left, which is for rows that wait. Take a file instead.",
                    null);
        }
        KeptAnswer answer;
        synchronized (answers) {
            List<KeptAnswer> theirs = answers.values().stream()
                    .filter(each -> each.by().equals(by))
                    .toList();
            List<KeptAnswer> running =
                    theirs.stream().filter(each -> !each.done()).toList();
            running.subList(0, Math.max(0, running.size() - RUNNING_OF_ONE + 1)).forEach(this::remove);
            theirs.subList(0, Math.max(0, theirs.size() - MOST_OF_ONE + 1)).forEach(this::remove);
            answers.values().stream()
                    .filter(KeptAnswer::done)
                    .limit(Math.max(0, answers.size() - MOST_OF_ALL + 1))
                    .toList()
                    .forEach(this::remove);
            if (answers.values().stream().filter(each -> !each.done()).count() >= MOST_AT_ONCE) {
                throw problem(
                        "As many queries are being asked as may be at once (" + MOST_AT_ONCE
                                + "). Wait until one is over.",
                        null);
            }
            byte[] bytes = new byte[12];
            random.nextBytes(bytes);
            String id = HexFormat.of().formatHex(bytes);
            try {
                answer = new KeptAnswer(
                        id, name, by, asked.span(), new KeptRows(folder.resolve(id + ".rows"), MOST_BYTES));
            } catch (IOException cannot) {
                throw problem("The rows cannot be kept on disk: " + cannot.getMessage(), cannot);
            }
            answers.put(id, answer);
        }
        threads.execute(() -> run(asked, answer));
        return answer;
    }

    private static StoreProblem problem(String sentence, Throwable cause) {
        return new StoreProblem(StoreProblem.Kind.BUSY, -1, sentence, cause);
    }

    private static void run(Asked asked, KeptAnswer answer) {
        Exception trouble = null;
        try {
            asked.give(LIMIT, MOST_ROWS, answer.rows());
        } catch (StoreProblem | dachshund.core.reader.QueryProblem why) {
            trouble = why;
        } catch (RuntimeException | Error unknown) {
            Threads.report(unknown);
            trouble = problem("It cannot be told why it failed: " + Threads.words(unknown) + ".", unknown);
        } finally {
            answer.end(answer.stopped() ? null : trouble);
        }
    }

    /** One that this person asked; empty where it is gone. */
    public Optional<KeptAnswer> find(String id, String by) {
        synchronized (answers) {
            Optional<KeptAnswer> found = Optional.ofNullable(answers.get(id))
                    .filter(each -> each.by().equals(by));
            found.ifPresent(KeptAnswer::look);
            return found;
        }
    }

    /** Nothing more of it is wanted; what came stays. */
    public void cancel(String id, String by) {
        find(id, by).ifPresent(answer -> threads.execute(answer.rows()::stop));
    }

    /** Whether the disk has little left; where nobody can tell, it has not. */
    private boolean scarce() {
        try {
            Files.createDirectories(folder);
            return Files.getFileStore(folder).getUsableSpace() < LEAVES_FREE;
        } catch (IOException unknown) {
            return false;
        }
    }

    void sweep(long unseenNanos, long leftNanos) {
        boolean scarce = scarce();
        synchronized (answers) {
            long bytes = 0;
            List<KeptAnswer> oldestFirst = new ArrayList<>(answers.values());
            for (int i = oldestFirst.size() - 1; i >= 0; i--) {
                bytes += oldestFirst.get(i).rows().bytes();
                if (scarce || bytes > MOST_BYTES_OF_ALL && oldestFirst.get(i).done()) {
                    remove(oldestFirst.get(i));
                }
            }
            new ArrayList<>(answers.values())
                    .stream()
                            .filter(each -> each.unseenNanos() > (each.done() ? unseenNanos : leftNanos))
                            .forEach(this::remove);
        }
    }

    private void remove(KeptAnswer answer) {
        answers.remove(answer.id());
        threads.execute(() -> {
            try {
                answer.rows().close();
            } catch (IOException cannot) {
                LOG.warn("The rows of an answer could not be removed: {}", cannot.getMessage());
            }
        });
    }

    @PreDestroy
    void close() {
        sweeper.close(Duration.ofSeconds(1));
        synchronized (answers) {
            Iterator<KeptAnswer> all = answers.values().iterator();
            while (all.hasNext()) {
                KeptAnswer each = all.next();
                all.remove();
                try {
                    each.rows().close();
                } catch (IOException cannot) {
                    LOG.warn("The rows of an answer could not be removed: {}", cannot.getMessage());
                }
            }
        }
        threads.shutdown();
    }
}
