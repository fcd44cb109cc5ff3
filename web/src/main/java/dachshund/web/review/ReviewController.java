package dachshund.web.review;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.query.QueryDefinition;
import dachshund.core.trend.TrendDefinition;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Standing;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.people.RightsHeld;
import java.util.List;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;

/** The Review and Deliver workspaces in their first form: the tables that rows land in, to look at and to take away. */
@Needs(Right.DESIGN)
@Controller
class ReviewController {

    private final Definitions definitions;
    private final Engine engine;

    /** A table that a live recorder writes. */
    public record TableLine(
            RecorderDefinition recorder,
            String table,
            String destination,
            List<String> columns,
            java.time.Instant lastRow) {}

    ReviewController(Definitions definitions, Engine engine) {
        this.definitions = definitions;
        this.engine = engine;
    }

    private List<TableLine> tables() {
        var status = engine.status();
        return definitions.live().stream()
                .filter(RecorderDefinition.class::isInstance)
                .map(RecorderDefinition.class::cast)
                .sorted(java.util.Comparator.comparing(RecorderDefinition::name))
                .flatMap(recorder -> recorder.wheres().stream()
                        .limit(1)
                        .map(where -> new TableLine(
                                recorder,
                                where.table(),
                                definitions
                                        .destination(where.destination())
                                        .map(DestinationDefinition::name)
                                        .orElse("?"),
                                recorder.layout().columns().stream()
                                        .map(column -> column.name())
                                        .toList(),
                                status.containsKey(recorder.id())
                                        ? status.get(recorder.id()).lastRow()
                                        : java.time.Instant.EPOCH)))
                .toList();
    }

    /** Those that who asks may open, by name. */
    private <T extends Definition> List<T> standing(Class<T> type) {
        if (RightsHeld.standing() == Standing.DRAFTED) {
            return definitions.all(type);
        }
        return definitions.live().stream()
                .filter(type::isInstance)
                .map(type::cast)
                .sorted(java.util.Comparator.comparing(Definition::name, String.CASE_INSENSITIVE_ORDER))
                .toList();
    }

    @GetMapping("/review")
    String review(Model model) {
        model.addAttribute("tables", tables());
        model.addAttribute("trends", standing(TrendDefinition.class));
        model.addAttribute("queries", standing(QueryDefinition.class));
        return "review/review";
    }

    @GetMapping("/deliver")
    String deliver(Model model) {
        model.addAttribute("tables", tables());
        return "review/deliver";
    }
}
