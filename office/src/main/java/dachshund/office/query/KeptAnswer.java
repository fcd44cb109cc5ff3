package dachshund.office.query;

import dachshund.core.reader.TableShape;
import dachshund.core.window.Span;
import java.io.IOException;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;

/** An answer that comes, or came, and can be looked at anywhere meanwhile. */
public final class KeptAnswer {

    private final String id;
    private final String by;
    private final Optional<Span> span;
    private final KeptRows rows;
    private final long begun = System.nanoTime();
    private final CountDownLatch over = new CountDownLatch(1);
    private volatile long ended;
    private volatile long looked = System.nanoTime();
    private volatile Exception trouble;

    KeptAnswer(String id, String by, Optional<Span> span, KeptRows rows) {
        this.id = id;
        this.by = by;
        this.span = span;
        this.rows = rows;
    }

    public String id() {
        return id;
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

    /** Somebody still has it before them. */
    void look() {
        looked = System.nanoTime();
    }

    long unseenNanos() {
        return System.nanoTime() - looked;
    }
}
