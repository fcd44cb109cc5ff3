package dachshund.web.trend;

import dachshund.core.definition.Definition;
import dachshund.core.trend.Curve;
import dachshund.core.trend.TrendDefinition;
import dachshund.web.design.OwnColumns;
import java.util.List;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.springframework.stereotype.Component;

/** Trends in their list. */
@Component
class TrendColumns implements OwnColumns {

    @Override
    public String kind() {
        return "TREND";
    }

    @Override
    public String page() {
        return "/review/trends";
    }

    @Override
    public List<Head> heads() {
        return List.of(new Head("Window", false), new Head("Curves", false));
    }

    @Override
    public Function<Definition, List<Cell>> cells() {
        return thing -> {
            TrendDefinition trend = (TrendDefinition) thing;
            String names = trend.curves().stream().map(Curve::name).collect(Collectors.joining(", "));
            return List.of(Cell.of(trend.window()), Cell.quiet(names));
        };
    }
}
