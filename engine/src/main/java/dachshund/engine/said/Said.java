package dachshund.engine.said;

import java.time.Instant;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.List;

/**
 * What one thing said lately: the newest lines with their times, in its own and its driver's words, so that a first failure
 * and its recovery can be understood afterwards. Safe for many threads.
 */
public final class Said {

    private static final int KEPT = 300;

    private final Deque<Line> lines = new ArrayDeque<>();

    /**
     * One line.
     *
     * @param at    when it was said first
     * @param times how often it was said without another line between
     */
    public record Line(Instant at, String words, long times) {}

    /** Notes a line; the same as the one before only counts. */
    public synchronized void note(Instant at, String words) {
        if (words.isEmpty()) {
            return;
        }
        Line newest = lines.peekFirst();
        if (newest != null && newest.words().equals(words)) {
            lines.removeFirst();
            lines.addFirst(new Line(newest.at(), words, newest.times() + 1));
            return;
        }
        lines.addFirst(new Line(at, words, 1));
        if (lines.size() > KEPT) {
            lines.removeLast();
        }
    }

    /** The newest first. */
    public synchronized List<Line> lines() {
        return List.copyOf(lines);
    }
}
