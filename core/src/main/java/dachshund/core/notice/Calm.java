package dachshund.core.notice;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.Iterator;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Predicate;

/**
 * Says when to tell somebody of what stands: once, when it has stood for a moment, then each hour while it goes on, and when
 * it has been over for a minute. What comes and goes within that is one matter. In quiet hours nothing is told; what went by
 * in them is told when they end. A state machine over time that is given; what it knows outlives a restart.
 */
public final class Calm {

    /** What is over sooner needs nobody. */
    static final Duration SETTLES = Duration.ofSeconds(15);

    static final Duration REMINDS = Duration.ofHours(1);
    static final Duration OVER = Duration.ofMinutes(1);

    private final Map<String, Known> known = new TreeMap<>();

    /**
     * What is known of a matter.
     *
     * @param matter as it stood last
     * @param first  when it was seen first
     * @param told   when somebody was told last; null while nobody was
     * @param gone   since when it does not stand any more; null while it does
     */
    public record Known(Matter matter, Instant first, Instant told, Instant gone) {}

    /** What of a matter is told. */
    public enum What {
        BEGAN,
        STILL,
        SOLVED
    }

    /** One thing to tell. */
    public record Line(What what, Matter matter) {}

    public Calm(List<Known> before) {
        before.forEach(each -> known.put(each.matter().key(), each));
    }

    /** What must outlive a restart. */
    public List<Known> known() {
        return List.copyOf(known.values());
    }

    /**
     * One look.
     *
     * @param standing all matters that stand now
     * @param quiet    whether a matter is not told now
     * @return what to tell, together
     */
    public List<Line> step(List<Matter> standing, Instant now, Predicate<Matter> quiet) {
        List<Line> lines = new ArrayList<>();
        Set<String> there = new HashSet<>();
        for (Matter matter : standing) {
            if (there.add(matter.key())) {
                Known before = known.getOrDefault(matter.key(), new Known(matter, now, null, null));
                known.put(matter.key(), told(stands(before, matter, now), now, quiet, lines));
            }
        }
        Map<String, Known> over = new HashMap<>(known);
        over.keySet().removeAll(there);
        Iterator<Map.Entry<String, Known>> all = known.entrySet().iterator();
        while (all.hasNext()) {
            Map.Entry<String, Known> each = all.next();
            if (over.containsKey(each.getKey())) {
                Known left = over(each.getValue(), now, quiet, lines);
                if (left == null) {
                    all.remove();
                } else {
                    each.setValue(left);
                }
            }
        }
        return lines;
    }

    /** It stands; a clock that was set back makes nothing wait for longer than it would have. */
    private static Known stands(Known before, Matter matter, Instant now) {
        return new Known(
                matter, earlier(before.first(), now), before.told() == null ? null : earlier(before.told(), now), null);
    }

    private static Instant earlier(Instant one, Instant other) {
        return one.isBefore(other) ? one : other;
    }

    private static Known told(Known is, Instant now, Predicate<Matter> quiet, List<Line> lines) {
        boolean first = is.told() == null;
        boolean due = first
                ? !now.isBefore(is.first().plus(SETTLES))
                : !is.matter().sort().once() && !now.isBefore(is.told().plus(REMINDS));
        if (!due || quiet.test(is.matter())) {
            return is;
        }
        lines.add(new Line(first ? What.BEGAN : What.STILL, is.matter()));
        return new Known(is.matter(), is.first(), now, null);
    }

    /** It does not stand any more. @return what is still to be known of it; null for nothing */
    private static Known over(Known is, Instant now, Predicate<Matter> quiet, List<Line> lines) {
        Instant gone = is.gone() == null ? now : earlier(is.gone(), now);
        boolean missed = is.told() == null && !gone.isBefore(is.first().plus(SETTLES));
        if (is.told() == null && !missed) {
            return null;
        }
        if (is.matter().sort().once()) {
            if (missed && !quiet.test(is.matter())) {
                lines.add(new Line(What.BEGAN, is.matter()));
            }
            return missed && quiet.test(is.matter()) ? new Known(is.matter(), is.first(), null, gone) : null;
        }
        if (now.isBefore(gone.plus(OVER)) || quiet.test(is.matter())) {
            return new Known(is.matter(), is.first(), is.told(), gone);
        }
        lines.add(new Line(What.SOLVED, is.matter()));
        return null;
    }
}
