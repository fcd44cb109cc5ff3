package dachshund.core.aggregate;

import java.util.ArrayList;
import java.util.List;

/**
 * A time in which values were not good.
 *
 * @param from  first tick
 * @param to    behind the last
 * @param grade {@link Samples#UNCERTAIN} where that is the worst of it, {@link Samples#BAD} where values were bad, {@link Samples#GAP}
 *     where nothing is known
 */
public record Trouble(long from, long to, byte grade) {

    /** Shorter parts of an interval are no wider than a line. */
    private static final double GOOD_ENOUGH = 0.9999;

    /**
     * Of intervals that follow each other, as fine as these are.
     *
     * @param until up to when anything can be known
     */
    public static List<Trouble> in(List<Fold> folds, long until) {
        List<Trouble> all = new ArrayList<>();
        byte held = Samples.GAP;
        for (Fold fold : folds) {
            if (fold.from >= until) {
                break;
            }
            byte worst = fold.raw > 0 ? fold.worst : held;
            boolean open = Double.isNaN(fold.atEnd);
            if (fold.goodShare() < GOOD_ENOUGH && fold.to <= until) {
                byte grade = worst == Samples.GOOD ? held : worst;
                int last = all.size() - 1;
                if (last >= 0
                        && all.get(last).to() == fold.from
                        && all.get(last).grade() == grade) {
                    all.set(last, new Trouble(all.get(last).from(), fold.to, grade));
                } else {
                    all.add(new Trouble(fold.from, fold.to, grade));
                }
            }
            held = !open ? Samples.BAD : fold.raw > 0 && worst != Samples.GOOD ? worst : held;
        }
        return all;
    }
}
