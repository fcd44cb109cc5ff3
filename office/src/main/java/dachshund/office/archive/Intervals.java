package dachshund.office.archive;

import dachshund.core.aggregate.Fold;
import dachshund.core.aggregate.Folding;
import dachshund.core.aggregate.Method;
import dachshund.core.aggregate.Samples;
import dachshund.core.archive.ArchiveStore;
import dachshund.core.archive.Summary.Unit;
import java.util.Set;
import java.util.function.Consumer;

/**
 * What is asked for: intervals that follow each other. All are as long as the step says, but the last one ends where all end.
 * Those of a plot begin with multiples of it, so that whoever looks again somewhat later asks for the same ones; the first of
 * them is shorter, too.
 *
 * @param from first tick
 * @param to   behind the last
 * @param step ticks
 * @param unit what is folded before is so long at most and begins with a multiple of it
 * @param plot whether an outline is all that is wanted
 */
record Intervals(long from, long to, long step, Unit unit, boolean plot) {

    /** Of so many spans an interval cuts one at each end, which is read whole, and the others are read in hours. */
    private static final int FEW_CUT = 4;

    /** Those of which aggregates are read. */
    static Intervals of(long from, long to, long step) {
        boolean hours =
                from % Unit.HOUR.ticks() == 0 && step % Unit.HOUR.ticks() == 0 || step >= FEW_CUT * ArchiveStore.SPAN;
        return new Intervals(from, to, step, hours ? Unit.HOUR : Unit.MINUTE, false);
    }

    /** Those of a plot: where one takes longer than a minute or an hour, whole minutes or hours, so that summaries are enough. */
    static Intervals ofPlot(long from, long to, int points) {
        long step = Math.max(1, (to - from + points - 1) / points);
        for (Unit each : Unit.values()) {
            if (step >= each.ticks()) {
                step -= step % each.ticks();
                break;
            }
        }
        return new Intervals(from, to, step, step % Unit.HOUR.ticks() == 0 ? Unit.HOUR : Unit.MINUTE, true);
    }

    /** The same time and some more, in whole minutes, which are kept longest. */
    Intervals inMinutes() {
        long minute = Unit.MINUTE.ticks();
        return new Intervals(
                from - Math.floorMod(from, minute),
                to + Math.floorMod(-to, minute),
                Math.max(minute, step - step % minute),
                unit,
                plot);
    }

    Intervals in(Unit other) {
        return new Intervals(from, to, step, other, plot);
    }

    /** Where the second one begins. */
    private long second() {
        long before = plot ? from - Math.floorMod(from, step) : from;
        return before > to - step ? to : before + step;
    }

    /** How many there are. */
    private long count() {
        return from >= to ? 0 : 1 + Math.max(0, to - second() + step - 1) / step;
    }

    /** So many of the first ones. */
    Intervals first(long many) {
        return many >= count() ? this : new Intervals(from, second() + (many - 1) * step, step, unit, plot);
    }

    /** In so many pieces, about: how many are in one. */
    long aPiece(long pieces) {
        return Math.max(1, (count() + pieces - 1) / pieces);
    }

    /** Those behind others that come first. */
    Intervals behind(Intervals first) {
        return new Intervals(first.to, to, step, unit, plot);
    }

    void fold(Samples samples, Method method, long until, Set<Fold.Part> parts, Consumer<Fold> taker) {
        Folding.fold(samples, method, from, second(), to, step, until, parts, taker);
    }

    /**
     * Whether one of them begins or ends between two instants, and amid what may be folded of it.
     *
     * @param folded ticks; what is folded of it lies in one multiple of it each
     */
    boolean cut(long first, long last, long folded) {
        if (cuts(from, first, last, folded) || cuts(to, first, last, folded)) {
            return true;
        }
        long second = second();
        if (second >= to || second % folded == 0 && step % folded == 0) {
            return false;
        }
        long at = first <= second ? second : second + (first - second + step - 1) / step * step;
        for (; at <= last && at < to; at += step) {
            if (at % folded != 0) {
                return true;
            }
        }
        return false;
    }

    private static boolean cuts(long at, long first, long last, long folded) {
        return at > first && at <= last && at % folded != 0;
    }
}
