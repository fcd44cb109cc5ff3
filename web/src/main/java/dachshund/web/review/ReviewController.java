package dachshund.web.review;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.query.QueryDefinition;
import dachshund.core.trend.TrendDefinition;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Standing;
import dachshund.office.filing.Filings;
import dachshund.office.filing.LatelyUsed;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.people.RightsHeld;
import java.security.Principal;
import java.util.List;
import java.util.Locale;
import java.util.stream.Stream;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;

/** The Review and Deliver workspaces in their first form: the tables that rows land in, to look at and to take away. */
@Needs(Right.DESIGN)
@Controller
class ReviewController {

    private final Definitions definitions;
    private final Engine engine;
    private final LatelyUsed lately;
    private final Filings filings;

    /** A thing that can be opened, and where it is filed. */
    public record Opened(String id, String name, String description, String folder, boolean lately) {}

    /** A table that a live recorder writes. */
    public record TableLine(
            RecorderDefinition recorder,
            String table,
            String destination,
            List<String> columns,
            java.time.Instant lastRow) {}

    ReviewController(Definitions definitions, Engine engine, LatelyUsed lately, Filings filings) {
        this.definitions = definitions;
        this.engine = engine;
        this.lately = lately;
        this.filings = filings;
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

    /** Lately used ones first; those that have all of the words. */
    private <T extends Definition> List<Opened> opened(Class<T> type, String words, String person) {
        return lately.first(standing(type), person).stream()
                .map(each -> new Opened(
                        each.id(),
                        each.name(),
                        each.description(),
                        filings.of(each.id()).folder(),
                        lately.has(person, each.id())))
                .filter(each -> has(each.name() + " " + each.description() + " " + each.folder(), words))
                .toList();
    }

    private static boolean has(String text, String words) {
        String all = text.toLowerCase(Locale.ROOT);
        return Stream.of(words.toLowerCase(Locale.ROOT).split("\\s+")).allMatch(all::contains);
    }

    @GetMapping("/review")
    String review(@RequestParam(defaultValue = "") String words, Principal by, Model model) {
        model.addAttribute("words", words);
        model.addAttribute(
                "tables",
                tables().stream()
                        .filter(each -> has(
                                each.table() + " " + each.destination() + " "
                                        + each.recorder().name(),
                                words))
                        .toList());
        model.addAttribute("trends", opened(TrendDefinition.class, words, by.getName()));
        model.addAttribute("queries", opened(QueryDefinition.class, words, by.getName()));
        return "review/review";
    }

    @GetMapping("/deliver")
    String deliver(Model model) {
        model.addAttribute("tables", tables());
        return "review/deliver";
    }
}
