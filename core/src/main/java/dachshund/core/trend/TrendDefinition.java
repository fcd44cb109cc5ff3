package dachshund.core.trend;

import dachshund.core.definition.Definition;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.UnaryOperator;

/**
 * Curves over one window.
 *
 * @param window in the words of {@link dachshund.core.window.Window}
 */
public record TrendDefinition(String id, String name, String description, String window, List<Curve> curves)
        implements Definition {

    public TrendDefinition {
        curves = List.copyOf(curves);
    }

    public Optional<Curve> curve(String called) {
        return curves.stream().filter(each -> each.id().equals(called)).findFirst();
    }

    public TrendDefinition named(String other, String described, String over) {
        return new TrendDefinition(id, other, described, over, curves);
    }

    public TrendDefinition with(Curve curve) {
        List<Curve> more = new ArrayList<>(curves);
        more.add(curve);
        return new TrendDefinition(id, name, description, window, more);
    }

    public TrendDefinition changed(String curve, UnaryOperator<Curve> to) {
        return new TrendDefinition(
                id,
                name,
                description,
                window,
                curves.stream()
                        .map(each -> each.id().equals(curve) ? to.apply(each) : each)
                        .toList());
    }

    public TrendDefinition without(String curve) {
        return new TrendDefinition(
                id,
                name,
                description,
                window,
                curves.stream().filter(each -> !each.id().equals(curve)).toList());
    }
}
