package dachshund.core.trend;

import dachshund.core.definition.Definition;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.UnaryOperator;

/**
 * Curves over one window, in plots under each other.
 *
 * @param window in the words of {@link dachshund.core.window.Window}
 * @param bands  what is drawn above them; the first one lies behind them as well
 */
public record TrendDefinition(
        String id, String name, String description, String window, List<Band> bands, List<Curve> curves)
        implements Definition {

    public TrendDefinition {
        bands = List.copyOf(bands);
        curves = List.copyOf(curves);
    }

    public Optional<Curve> curve(String called) {
        return curves.stream().filter(each -> each.id().equals(called)).findFirst();
    }

    public Optional<Band> band(String called) {
        return bands.stream().filter(each -> each.id().equals(called)).findFirst();
    }

    /** Numbers of its plots that have curves, from above. */
    public List<Integer> plots() {
        return curves.stream().map(Curve::plot).distinct().sorted().toList();
    }

    public List<Curve> curvesIn(int plot) {
        return curves.stream().filter(each -> each.plot() == plot).toList();
    }

    public TrendDefinition named(String other, String described, String over) {
        return new TrendDefinition(id, other, described, over, bands, curves);
    }

    public TrendDefinition under(List<Band> others) {
        return new TrendDefinition(id, name, description, window, others, curves);
    }

    /** The same with other curves; a plot without any is gone, and those below move up. */
    public TrendDefinition of(List<Curve> others) {
        List<Integer> plots =
                others.stream().map(Curve::plot).distinct().sorted().toList();
        return new TrendDefinition(
                id,
                name,
                description,
                window,
                bands,
                others.stream()
                        .map(each -> each.in(plots.indexOf(each.plot()) + 1))
                        .toList());
    }

    public TrendDefinition with(Curve curve) {
        List<Curve> more = new ArrayList<>(curves);
        more.add(curve);
        return of(more);
    }

    public TrendDefinition changed(String curve, UnaryOperator<Curve> to) {
        return of(curves.stream()
                .map(each -> each.id().equals(curve) ? to.apply(each) : each)
                .toList());
    }

    public TrendDefinition without(String curve) {
        return of(curves.stream().filter(each -> !each.id().equals(curve)).toList());
    }
}
