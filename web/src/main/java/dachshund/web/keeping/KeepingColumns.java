package dachshund.web.keeping;

import dachshund.core.definition.Definition;
import dachshund.core.keep.KeepingRuleDefinition;
import dachshund.web.design.OwnColumns;
import dachshund.web.keeping.RuleState.State;
import dachshund.web.page.Shown;
import dachshund.web.page.Times;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.function.Function;
import org.springframework.stereotype.Component;

/** Keeping rules in their list. */
@Component
class KeepingColumns implements OwnColumns {

    private final RuleState states;
    private final Shown shown;
    private final Times times;

    KeepingColumns(RuleState states, Shown shown, Times times) {
        this.states = states;
        this.shown = shown;
        this.times = times;
    }

    @Override
    public String kind() {
        return "KEEPING_RULE";
    }

    @Override
    public String page() {
        return "/plant/keeping";
    }

    @Override
    public List<Head> heads() {
        return List.of(
                new Head("Keeps", false),
                new Head("For", false),
                new Head("Tags", true),
                new Head("Values a second", true),
                new Head("A day", true),
                new Head("In all", true),
                new Head("Oldest", false),
                new Head("Newest", false),
                new Head("Trouble", false));
    }

    @Override
    public Function<Definition, List<Cell>> cells() {
        return thing -> cells((KeepingRuleDefinition) thing);
    }

    private List<Cell> cells(KeepingRuleDefinition rule) {
        Optional<State> state = states.of(rule);
        String days = rule.keptFor().words();
        if (state.isEmpty()) {
            return List.of(
                    Cell.of(rule.how().words()),
                    Cell.of(days),
                    Cell.number(""),
                    Cell.number(""),
                    Cell.number(""),
                    Cell.number(""),
                    Cell.quiet("not released"),
                    Cell.of(""),
                    Cell.of(""));
        }
        State is = state.get();
        return List.of(
                Cell.of(rule.how().words()),
                Cell.of(days),
                Cell.number(shown.count(is.tags())),
                Cell.number(is.values() == 0 ? "" : String.format(Locale.UK, "%.1f", is.valuesPerSecond())),
                Cell.number(is.values() == 0 ? "" : shown.bytes(is.bytesPerDay())),
                Cell.number(is.values() == 0 ? "" : shown.bytes(is.bytes())),
                new Cell(
                        is.oldest().map(times::full).orElse("nothing yet"),
                        is.oldest().isEmpty() ? "quiet" : "mono",
                        ""),
                Cell.mono(is.newest().map(times::full).orElse("")),
                is.trouble().equals("none") ? Cell.quiet("none") : new Cell(is.trouble(), "gap", ""));
    }
}
