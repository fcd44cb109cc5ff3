package dachshund.core.aggregate;

import java.util.Set;
import java.util.function.Consumer;

/**
 * Walks samples once and folds them into intervals that follow each other. What holds between two values is what their
 * qualities and the {@link Method} say: from a value on, time has its quality until the next one comes; from a bad one or a gap
 * on there is no value. For what bridges bad values (OPC 10000-13: interpolated bounding values) the next and the last value
 * that can be used count, but never across a gap.
 */
public final class Folding {

    private final Samples samples;
    private final Method method;
    private final long until;
    private final int parts;
    private final Consumer<Fold> taker;

    /** The last sample at or before the place, the next one, and the usable ones around it; -1 and size where there is none. */
    private int at;

    private int before;
    private int after;
    private boolean gapBetween;
    /** Whether a gap has begun since the last value that can be used. */
    private boolean gapPassed;
    /** So many stretches lie behind. */
    private int stretch;

    /** The last place whose value was asked for: an interval begins where the one before ends. */
    private long knownPlace = Long.MIN_VALUE;

    private int knownAt = -1;
    private double known = Double.NaN;
    /** So many samples were taken together before: mostly, there are as many again. */
    private int usual;

    private Folding(Samples samples, Method method, long until, Set<Fold.Part> parts, Consumer<Fold> taker) {
        this.samples = samples;
        this.method = method;
        this.until = until;
        this.parts = Fold.Part.bits(parts);
        this.taker = taker;
    }

    /**
     * @param samples also the one before the first interval and the one behind the last, where there are such; what is
     *                folded of them lies in one interval each
     * @param from    first tick of the first interval
     * @param to      first tick behind the last
     * @param step    length of each; the last one ends with {@code to}
     * @param until   up to when the last sample holds: to the present, or to when whoever recorded it went away
     */
    public static void fold(
            Samples samples, Method method, long from, long to, long step, long until, Consumer<Fold> taker) {
        fold(samples, method, from, to, step, until, Fold.ALL, taker);
    }

    /**
     * The same, where no more is asked for than some parts.
     *
     * @param parts what is to be read off the intervals, beside what each one has
     */
    public static void fold(
            Samples samples,
            Method method,
            long from,
            long to,
            long step,
            long until,
            Set<Fold.Part> parts,
            Consumer<Fold> taker) {
        fold(samples, method, from, from > to - step ? to : from + step, to, step, until, parts, taker);
    }

    /**
     * The same, where the first interval may be shorter than the others.
     *
     * @param second first tick of the second interval
     */
    public static void fold(
            Samples samples,
            Method method,
            long from,
            long second,
            long to,
            long step,
            long until,
            Set<Fold.Part> parts,
            Consumer<Fold> taker) {
        if (step <= 0 || to < from || second <= from && from < to) {
            throw new IllegalArgumentException("Intervals have a length, and end behind where they begin.");
        }
        Folding folding = new Folding(samples, method, until, parts, taker);
        folding.begin(from);
        long end = Math.min(to, second);
        for (long start = from; start < to; start = end, end = end > to - step ? to : end + step) {
            folding.interval(start, end);
        }
    }

    private void begin(long from) {
        at = samples.before(from) - 1;
        before = at;
        for (int i = 0; i <= at; i++) {
            stretch += samples.grade(i) == Samples.FOLDED ? 1 : 0;
        }
        gapBetween = false;
        while (before >= 0 && !usable(before)) {
            gapBetween |= samples.grade(before) == Samples.GAP;
            before--;
        }
        gapPassed = gapBetween;
        after = at;
        seekAfter();
    }

    private boolean usable(int index) {
        return method.usable(samples.grade(index));
    }

    private void seekAfter() {
        after = Math.max(after, at + 1);
        while (after < samples.size() && !usable(after)) {
            gapBetween |= samples.grade(after) == Samples.GAP;
            after++;
        }
    }

    private void interval(long from, long to) {
        Fold fold = new Fold(from, to, parts);
        boolean first = !isAmidGood(from, to);
        long place = first ? from : lead(fold);
        while (place < to || first) {
            int next = at + 1;
            long end = next < samples.size() ? Math.min(samples.time(next), to) : to;
            if (first && (next >= samples.size() || samples.time(next) > from)) {
                fold.atStart = simple(from);
                interpolate(fold);
            }
            first = false;
            if (next < samples.size() && samples.grade(next) == Samples.FOLDED) {
                folded(fold, next, place, end);
                place = samples.time(at);
                continue;
            }
            if (next < samples.size() && end == samples.time(next) && end < to && isPlain(place, next)) {
                plain(fold, to);
                place = samples.time(at);
                if (endsAmidGood(to)) {
                    trail(fold);
                    taker.accept(fold);
                    return;
                }
                continue;
            }
            if (end > place) {
                region(fold, place, end);
                place = end;
            }
            if (next >= samples.size() || samples.time(next) >= to) {
                break;
            }
            step(fold, next);
            if (samples.time(next) == from) {
                fold.atStart = usable(next) ? samples.value(next) : Double.NaN;
                interpolate(fold);
            }
        }
        fold.atEnd = ending(to);
        taker.accept(fold);
    }

    /** Whether an interval begins, as nearly all do, between two good samples of which the second lies inside. */
    private boolean isAmidGood(long from, long to) {
        return at >= 0
                && before == at
                && after == at + 1
                && after < samples.size()
                && !gapBetween
                && !gapPassed
                && samples.grade(after) == Samples.GOOD
                && (samples.grade(at) == Samples.GOOD || samples.grade(at) == Samples.FOLDED)
                && samples.time(after) > from
                && samples.time(after) < to
                && samples.time(after) <= until;
    }

    /** What is before the first sample of such an interval, and that one: the same as {@link #region} and {@link #step}, with nothing to ask. */
    private long lead(Fold fold) {
        double held = samples.value(at);
        double start = simple(fold.from);
        fold.atStart = start;
        fold.interpolated = start;
        fold.interpolatedGrade = Samples.GOOD;
        fold.takeLead(samples, at, start, method.stepped());
        at++;
        before = at;
        after = at + 1;
        if (held != samples.value(at)) {
            fold.transitions++;
        }
        if (after < samples.size() && !usable(after)) {
            seekAfter();
        }
        return samples.time(at);
    }

    /** Whether it ends between two good samples, too: the last one and one that is not inside. */
    private boolean endsAmidGood(long to) {
        return before == at
                && after == at + 1
                && after < samples.size()
                && samples.grade(after) == Samples.GOOD
                && samples.time(after) >= to
                && to <= until;
    }

    /** What is behind the last sample of such an interval. */
    private void trail(Fold fold) {
        double end = simple(fold.to);
        fold.takeTrail(samples.time(at), samples.value(at), end);
        fold.atEnd = samples.time(after) == fold.to && !method.stepped() ? samples.value(after) : end;
    }

    /** Whether there is nothing to ask between the last sample and the next: both are good, and the region is all between them. */
    private boolean isPlain(long place, int next) {
        return at >= 0
                && before == at
                && place == samples.time(at)
                && (samples.grade(at) == Samples.GOOD || samples.grade(at) == Samples.FOLDED)
                && samples.grade(next) == Samples.GOOD
                && samples.time(next) <= until;
    }

    /** Takes good samples as long as they follow each other inside the interval: nearly all there are, so nothing is asked twice. */
    private void plain(Fold fold, long to) {
        if (at + 2 < samples.size() && samples.grade(at + 2) == Samples.FOLDED && fold.count > 0) {
            fold.takeNext(samples, at, method.stepped());
            at++;
            before = at;
            after = at + 1;
            return;
        }
        int last = fold.takeGood(samples, at, Math.min(to - 1, until), usual, method.stepped());
        usual = last - at;
        at = last;
        before = last;
        after = last + 1;
        if (after < samples.size() && !usable(after)) {
            seekAfter();
        }
    }

    /** Takes what was folded, with the sample at its end. */
    private void folded(Fold fold, int next, long place, long end) {
        long begin = samples.time(at);
        if (begin != place || end != samples.time(next) || end >= fold.to || end > until) {
            throw new IllegalArgumentException("An interval begins or ends amid what was folded.");
        }
        samples.stretches().into(fold, stretch++, begin, end, samples.value(next), method.stepped());
        at = next;
        if (samples.stretches().forPlots()) {
            int last = fold.takePlotted(samples, at, stretch, Math.min(fold.to - 1, until));
            stretch += (last - at) / 2;
            at = last;
        }
        // Nearly all there is of summaries: a good sample, and what is folded behind it.
        while (at + 2 < samples.size()
                && samples.grade(at + 2) == Samples.FOLDED
                && samples.grade(at + 1) == Samples.GOOD
                && samples.time(at + 2) < fold.to
                && samples.time(at + 2) <= until) {
            fold.takeNext(samples, at, method.stepped());
            long last = samples.time(at + 2);
            samples.stretches()
                    .into(fold, stretch++, samples.time(at + 1), last, samples.value(at + 2), method.stepped());
            at += 2;
        }
        before = at;
        gapBetween = false;
        gapPassed = false;
        seekAfter();
    }

    /** The value at the beginning, from the values around it that can be used; it is uncertain where it is not between good ones. */
    private void interpolate(Fold fold) {
        if (before < 0 || gapPassed || fold.from > until) {
            return;
        }
        boolean exact = samples.time(before) == fold.from;
        boolean lined = !exact && !method.stepped() && after < samples.size() && !gapBetween;
        boolean bridged = before < at && !exact || lined && after > at + 1;
        boolean uncertain = samples.grade(before) == Samples.UNCERTAIN
                || lined && samples.grade(after) == Samples.UNCERTAIN
                || bridged
                || !exact && !lined && !method.stepped();
        fold.interpolated = lined
                ? before == at && after == at + 1 ? simple(fold.from) : line(before, after, fold.from)
                : samples.value(before);
        fold.interpolatedGrade = uncertain ? Samples.UNCERTAIN : Samples.GOOD;
    }

    /** Goes on to the next sample. */
    private void step(Fold fold, int next) {
        boolean usable = usable(next);
        double value = samples.value(next);
        fold.take(samples.time(next), value, samples.grade(next), usable);
        if (usable) {
            if (before >= 0 && !gapBetween && samples.value(before) != value) {
                fold.transitions++;
            }
            at = next;
            before = next;
            gapBetween = false;
            gapPassed = false;
            seekAfter();
        } else {
            at = next;
            gapPassed |= samples.grade(next) == Samples.GAP;
        }
    }

    /** The value at a place between the last sample and the next, as the one before it alone or the line to the next says. */
    private double simple(long place) {
        if (place != knownPlace || at != knownAt) {
            known = between(place);
            knownPlace = place;
            knownAt = at;
        }
        return known;
    }

    private double between(long place) {
        if (at < 0 || !usable(at) || place > until) {
            return Double.NaN;
        }
        int next = at + 1;
        return next < samples.size() && usable(next) ? line(at, next, place) : samples.value(at);
    }

    private double ending(long to) {
        int next = at + 1;
        if (next < samples.size() && samples.time(next) == to && usable(next) && !method.stepped()) {
            return samples.value(next);
        }
        return simple(to);
    }

    private double line(int from, int to, long place) {
        long length = samples.time(to) - samples.time(from);
        if (method.stepped() || length == 0 || place == samples.time(from)) {
            return samples.value(from);
        }
        double part = (double) (place - samples.time(from)) / length;
        return samples.value(from) + (samples.value(to) - samples.value(from)) * part;
    }

    private void region(Fold fold, long from, long to) {
        long known = Math.min(to, Math.max(from, until));
        fold.badTicks += to - known;
        long ticks = known - from;
        if (at < 0 || !usable(at)) {
            fold.badTicks += ticks;
        } else if (ticks > 0) {
            fold.usableTicks += ticks;
            if (samples.grade(at) == Samples.UNCERTAIN) {
                fold.uncertainTicks += ticks;
            }
            double more = (simple(from) + simple(known)) / 2 * ticks;
            fold.area += more;
            if (samples.value(at) == 0) {
                fold.zeroTicks += ticks;
            } else {
                fold.otherTicks += ticks;
            }
            if (before == at && after == at + 1 && after < samples.size() && !gapBetween && !gapPassed) {
                // Nothing has to be bridged.
                fold.bridgedTicks += ticks;
                fold.bridgedArea += more;
                return;
            }
        }
        bridge(fold, from, known);
    }

    private void bridge(Fold fold, long from, long to) {
        if (before < 0 || to <= from || gapPassed) {
            return;
        }
        boolean lined = after < samples.size() && !gapBetween;
        double a = lined ? line(before, after, from) : samples.value(before);
        double b = lined ? line(before, after, to) : samples.value(before);
        fold.bridgedTicks += to - from;
        fold.bridgedArea += (a + b) / 2 * (to - from);
    }
}
