package dachshund.office.query;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;
import static org.awaitility.Awaitility.await;

import dachshund.core.destination.StoreProblem;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.window.Span;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Answers that come while they are looked at, are cancelled, throw anything, and are gone when nobody looks. */
class KeptAnswersTest {

    private static final List<TableShape.Column> COLUMNS = List.of(
            new TableShape.Column("n", "number", TableShape.Sort.NUMBER, true),
            new TableShape.Column("t", "text", TableShape.Sort.TEXT, true));
    private static final Instant TIME = Instant.parse("2026-11-28T06:00:00.123456789Z");

    @TempDir
    Path folder;

    private KeptAnswers answers;

    @BeforeEach
    void begin() throws IOException {
        Files.createDirectories(folder.resolve("answers"));
        Files.writeString(folder.resolve("answers/left.rows"), "of a process that was killed");
        answers = new KeptAnswers(folder.resolve("answers"));
    }

    @AfterEach
    void end() {
        answers.close();
    }

    private long files() throws IOException {
        try (Stream<Path> all = Files.list(folder.resolve("answers"))) {
            return all.count();
        }
    }

    @FunctionalInterface
    private interface Gives {
        void to(TableReading.Taker taker) throws StoreProblem, QueryProblem;
    }

    private static Asked asked(Gives gives) {
        return new Asked() {
            @Override
            public Optional<Span> span() {
                return Optional.empty();
            }

            @Override
            public long give(Duration limit, long most, TableReading.Taker taker) throws StoreProblem, QueryProblem {
                gives.to(taker);
                return 0;
            }
        };
    }

    private static List<Object> row(long n) {
        return Arrays.asList(n, n % 7 == 0 ? null : n % 5 == 0 ? (Object) TIME : "Row " + n);
    }

    /** Any part of it, while more comes. */
    @Test
    void anyPartIsThereWhileMoreComes() throws Exception {
        CountDownLatch half = new CountDownLatch(1);
        CountDownLatch looked = new CountDownLatch(1);
        KeptAnswer answer = answers.ask(
                asked(taker -> {
                    taker.columns(COLUMNS);
                    for (long n = 0; n < 100_000; n++) {
                        if (n == 50_025) {
                            half.countDown();
                            try {
                                looked.await();
                            } catch (InterruptedException interrupted) {
                                return;
                            }
                        }
                        taker.row(row(n));
                    }
                }),
                "",
                "ann");
        half.await();
        assertThat(answer.done()).isFalse();
        assertThat(answer.count()).isEqualTo(50_025);
        assertThat(answer.part(50_020, 100))
                .isEqualTo(List.of(row(50_020), row(50_021), row(50_022), row(50_023), row(50_024)));
        looked.countDown();
        answer.await(60_000);
        assertThat(answer.done()).isTrue();
        assertThat(answer.columns()).isEqualTo(COLUMNS);
        List<List<Object>> expected = new ArrayList<>();
        for (long n = 99_930; n < 100_000; n++) {
            expected.add(row(n));
        }
        assertThat(answer.part(99_930, 200)).isEqualTo(expected);
        assertThat(answer.part(0, 2)).isEqualTo(List.of(row(0), row(1)));
        assertThat(answer.part(100_000, 10)).isEmpty();
        assertThat(answer.part(-1, 10)).isEmpty();
        assertThat(answers.find(answer.id(), "ann")).contains(answer);
        assertThat(answers.find(answer.id(), "bob")).isEmpty();
        assertThat(files()).isEqualTo(1);
    }

    @Test
    void whatIsCancelledIsBrokenOffAndWhatCameStays() throws Exception {
        AtomicBoolean broken = new AtomicBoolean();
        CountDownLatch running = new CountDownLatch(1);
        CountDownLatch cancelled = new CountDownLatch(1);
        KeptAnswer answer = answers.ask(
                asked(taker -> {
                    taker.running(() -> {
                        broken.set(true);
                        cancelled.countDown();
                    });
                    taker.columns(COLUMNS);
                    taker.row(row(1));
                    running.countDown();
                    try {
                        cancelled.await();
                    } catch (InterruptedException interrupted) {
                        return;
                    }
                    throw new StoreProblem(StoreProblem.Kind.BUSY, -1, "Query execution was interrupted.", null);
                }),
                "",
                "ann");
        running.await();
        answers.cancel(answer.id(), "bob");
        assertThat(answer.done()).isFalse();
        answers.cancel(answer.id(), "ann");
        answer.await(60_000);
        assertThat(broken).isTrue();
        assertThat(answer.stopped()).isTrue();
        assertThat(answer.trouble()).isEmpty();
        assertThat(answer.part(0, 10)).isEqualTo(List.of(row(1)));
    }

    private static final class Rows implements TableReading.Taker {
        private final List<List<Object>> all = new ArrayList<>();
        private List<TableShape.Column> columns = List.of();

        @Override
        public void columns(List<TableShape.Column> given) {
            columns = given;
        }

        @Override
        public boolean row(List<Object> cells) {
            all.add(cells);
            return true;
        }
    }

    /** A file of it has each row once, from the first to the last, whenever they come. */
    @Test
    void allOfItIsHandedOutWhileItComes() throws Exception {
        CountDownLatch half = new CountDownLatch(1);
        KeptAnswer answer = answers.ask(
                asked(taker -> {
                    try {
                        Thread.sleep(150);
                        taker.columns(COLUMNS);
                        for (long n = 0; n < 5_000; n++) {
                            if (n == 2_345) {
                                half.await();
                            }
                            taker.row(row(n));
                        }
                    } catch (InterruptedException interrupted) {
                        Thread.currentThread().interrupt();
                    }
                }),
                "",
                "ann");
        Rows rows = new Rows();
        List<Long> given = new ArrayList<>();
        Thread reader = new Thread(() -> {
            try {
                given.add(answer.give(rows));
            } catch (StoreProblem | QueryProblem problem) {
                given.add(-1L);
            }
        });
        reader.start();
        await().until(() -> rows.all.size() == 2_345);
        half.countDown();
        reader.join(20_000);
        assertThat(given).containsExactly(5_000L);
        assertThat(rows.columns).isEqualTo(COLUMNS);
        List<List<Object>> expected = new ArrayList<>();
        for (long n = 0; n < 5_000; n++) {
            expected.add(row(n));
        }
        assertThat(rows.all).isEqualTo(expected);
        // Whoever wants no more is given no more.
        assertThat(answer.give(new TableReading.Taker() {
                    @Override
                    public void columns(List<TableShape.Column> columns) {
                        // not wanted
                    }

                    @Override
                    public boolean row(List<Object> cells) {
                        return false;
                    }
                }))
                .isEqualTo(1);
    }

    /** A file that is not whole is never taken for one that is. */
    @Test
    void whatEndedBeforeItsEndIsNoWholeFile() throws Exception {
        KeptAnswer broken = answers.ask(
                asked(taker -> {
                    taker.columns(COLUMNS);
                    taker.row(row(1));
                    throw new StoreProblem(StoreProblem.Kind.AWAY, -1, "It went away.", null);
                }),
                "",
                "ann");
        Rows rows = new Rows();
        assertThat(catchThrowableOfType(StoreProblem.class, () -> broken.give(rows)))
                .hasMessage("It went away.");
        assertThat(rows.all).hasSize(1);
        KeptAnswer refused = answers.ask(
                asked(taker -> {
                    throw new QueryProblem("It is no query.", 3, 5);
                }),
                "",
                "ann");
        assertThat(catchThrowableOfType(QueryProblem.class, () -> refused.give(new Rows())))
                .hasMessage("It is no query.");
        KeptAnswer long_ = answers.ask(
                asked(taker -> {
                    taker.columns(COLUMNS);
                    for (long n = 0; n < KeptAnswers.MOST_ROWS && taker.row(List.of(n, "x")); n++) {
                        // until it takes no more
                    }
                }),
                "",
                "ann");
        long_.await(60_000);
        assertThat(long_.more()).isTrue();
        assertThat(catchThrowableOfType(StoreProblem.class, () -> long_.give(new Rows())))
                .hasMessageContaining("more rows than the 1000000 that are kept");
        answers.sweep(-1, -1);
        await().untilAsserted(() -> assertThat(files()).isZero());
        assertThat(catchThrowableOfType(StoreProblem.class, () -> long_.give(new Rows())))
                .hasMessage("This answer is not kept any more. Ask again.");
    }

    /** Whoever asks more than two things at once has the first taken away: a file of it is broken off, and not taken for a whole one. */
    @Test
    void whatIsTakenAwayWhileItGoesOutIsNoWholeFile() throws Exception {
        CountDownLatch taken = new CountDownLatch(1);
        Asked slow = asked(taker -> {
            taker.columns(COLUMNS);
            for (long n = 0; n < 5; n++) {
                taker.row(row(n));
            }
            try {
                taken.await();
            } catch (InterruptedException interrupted) {
                Thread.currentThread().interrupt();
            }
        });
        KeptAnswer first = answers.ask(slow, "", "ann");
        Rows rows = new Rows();
        List<String> ended = new CopyOnWriteArrayList<>();
        Thread file = new Thread(() -> {
            try {
                ended.add("whole, " + first.give(rows));
            } catch (StoreProblem | QueryProblem problem) {
                ended.add(problem.getMessage());
            }
        });
        file.start();
        await().until(() -> rows.all.size() == 5);
        answers.ask(slow, "", "ann");
        answers.ask(slow, "", "ann");
        taken.countDown();
        file.join(20_000);
        assertThat(ended).containsExactly("This answer is not kept any more. Ask again.");
    }

    @Test
    void whateverIsThrownIsASentence() throws Exception {
        for (Throwable each : List.of(
                new StoreProblem(StoreProblem.Kind.AWAY, -1, "It does not answer.", null),
                new QueryProblem("It is no query.", 3, 5),
                new IllegalStateException("odd"),
                new NullPointerException(),
                new StackOverflowError())) {
            KeptAnswer answer = answers.ask(
                    asked(taker -> {
                        if (each instanceof StoreProblem problem) {
                            throw problem;
                        }
                        if (each instanceof QueryProblem problem) {
                            throw problem;
                        }
                        if (each instanceof Error error) {
                            throw error;
                        }
                        throw (RuntimeException) each;
                    }),
                    "",
                    "ann");
            answer.await(60_000);
            assertThat(answer.done()).isTrue();
            assertThat(answer.trouble().orElseThrow().getMessage()).endsWith(".");
        }
        KeptAnswer good = answers.ask(asked(taker -> taker.columns(COLUMNS)), "", "ann");
        good.await(60_000);
        assertThat(good.trouble()).isEmpty();
    }

    /** Nobody holds up others for long, and what nobody looks at is gone from the disk. */
    @Test
    void aFewRunAtOnceAndWhatNobodyLooksAtIsGone() throws Exception {
        CountDownLatch over = new CountDownLatch(1);
        Asked slow = asked(taker -> {
            taker.columns(COLUMNS);
            while (taker.row(row(1))) {
                try {
                    over.await(5, java.util.concurrent.TimeUnit.MILLISECONDS);
                } catch (InterruptedException interrupted) {
                    return;
                }
            }
        });
        KeptAnswer first = answers.ask(slow, "", "ann");
        answers.ask(slow, "", "ann");
        // The third of one person ends the first.
        answers.ask(slow, "", "ann");
        first.await(60_000);
        assertThat(first.done()).isTrue();
        answers.ask(slow, "", "bob");
        answers.ask(slow, "", "bob");
        assertThat(catchThrowableOfType(StoreProblem.class, () -> answers.ask(slow, "", "cleo")))
                .hasMessageContaining("as may be at once");
        answers.sweep(0, 0);
        await().untilAsserted(() -> assertThat(files()).isZero());
        KeptAnswer next = answers.ask(asked(taker -> taker.columns(COLUMNS)), "", "cleo");
        next.await(60_000);
        assertThat(next.done()).isTrue();
    }
}
