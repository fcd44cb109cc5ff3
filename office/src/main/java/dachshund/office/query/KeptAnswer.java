package dachshund.office.query;

import dachshund.core.destination.StoreProblem;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.window.Span;
import java.io.IOException;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;

/** An answer that comes, or came, and can be looked at anywhere meanwhile. */
public final class KeptAnswer {

    private static final int AT_ONCE = 1000;
    private static final long LOOK_MILLIS = 100;

    private final String id;
    private final String name;
    private final String by;
    private final Optional<Span> span;
    private final KeptRows rows;
    private final long begun = System.nanoTime();
    private final CountDownLatch over = new CountDownLatch(1);
    private volatile long ended;
    private volatile long looked = System.nanoTime();
    private volatile Exception trouble;

    KeptAnswer(String id, String name, String by, Optional<Span> span, KeptRows rows) {
        this.id = id;
        this.name = name;
        this.by = by;
        this.span = span;
        this.rows = rows;
    }

    public String id() {
        return id;
    }

    /** What was asked, as people call it; may be empty. */
    public String name() {
        return name;
    }

    /** Who asked; nobody else sees it. */
    String by() {
        return by;
    }

    /** The window that it was asked for, where it has one. */
    public Optional<Span> span() {
        return span;
    }

    KeptRows rows() {
        return rows;
    }

    void end(Exception why) {
        trouble = why;
        ended = System.nanoTime();
        over.countDown();
    }

    /** Whether all of it is there, or nothing more comes. */
    public boolean done() {
        return over.getCount() == 0;
    }

    /** Waits until it is done, so long at most. */
    public void await(long millis) {
        try {
            if (over.await(millis, TimeUnit.MILLISECONDS)) {
                return;
            }
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
        }
    }

    /** Why nothing more came; a QueryProblem may know a place. */
    public Optional<Exception> trouble() {
        return Optional.ofNullable(trouble);
    }

    /** Whether it was stopped by whoever asked. */
    public boolean stopped() {
        return rows.stopped();
    }

    /** Whether there is more of it than is kept here. */
    public boolean more() {
        return done() && trouble == null && !stopped() && (rows.full() || rows.count() >= KeptAnswers.MOST_ROWS);
    }

    /** How long it took, or takes so far. */
    public long millis() {
        return ((done() ? ended : System.nanoTime()) - begun) / 1_000_000;
    }

    public long count() {
        return rows.count();
    }

    public List<TableShape.Column> columns() {
        return rows.columns();
    }

    /** Some of its rows, of those that are there. */
    public List<List<Object>> part(long from, int most) throws IOException {
        looked = System.nanoTime();
        return rows.read(from, most);
    }

    /**
     * Hands out all of it from its first row on, also what comes meanwhile: the database is not asked again. Of one that was cancelled
     * it is what came.
     *
     * @return how many rows
     * @throws StoreProblem where it ended before its end, where there is more of it than is kept, or where it is gone
     * @throws QueryProblem where the database refused the query
     */
    public long give(TableReading.Taker taker) throws StoreProblem, QueryProblem {
        while (!done() && columns().isEmpty()) {
            look();
            await(LOOK_MILLIS);
        }
        if (!columns().isEmpty()) {
            taker.columns(columns());
        }
        long given = 0;
        while (true) {
            boolean wasDone = done();
            List<List<Object>> rows = some(given);
            for (List<Object> row : rows) {
                given++;
                if (!taker.row(row)) {
                    return given;
                }
            }
            if (rows.isEmpty() && wasDone) {
                end();
                return given;
            }
            if (rows.isEmpty()) {
                await(LOOK_MILLIS);
            }
        }
    }

    private List<List<Object>> some(long from) throws StoreProblem {
        try {
            return part(from, AT_ONCE);
        } catch (IOException cannot) {
            throw gone(cannot);
        }
    }

    private static StoreProblem gone(IOException cause) {
        return new StoreProblem(StoreProblem.Kind.BUSY, -1, "This answer is not kept any more. Ask again.", cause);
    }

    /** Whether what was handed out is all. */
    private void end() throws StoreProblem, QueryProblem {
        if (rows.gone()) {
            throw gone(null);
        }
        if (trouble instanceof StoreProblem problem) {
            throw problem;
        }
        if (trouble instanceof QueryProblem problem) {
            throw problem;
        }
        if (more()) {
            throw new StoreProblem(
                    StoreProblem.Kind.BUSY,
                    -1,
                    "There are more rows than the " + count()
                            + " that are kept of an answer. Take a file of the saved query, asked anew.",
                    null);
        }
    }

    /** Somebody still has it before them. */
    void look() {
        looked = System.nanoTime();
    }

    long unseenNanos() {
        return System.nanoTime() - looked;
    }
}
