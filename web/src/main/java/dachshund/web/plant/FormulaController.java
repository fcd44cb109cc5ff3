package dachshund.web.plant;

import dachshund.core.definition.SourceDefinition;
import dachshund.core.formula.Formula;
import dachshund.core.formula.FormulaFunctions;
import dachshund.core.formula.FormulaProblem;
import dachshund.core.formula.FormulaTag;
import dachshund.core.formula.InputHistory;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagFacts;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.engine.Engine;
import dachshund.engine.kept.KeptKind;
import dachshund.office.definition.Drafts;
import dachshund.office.design.ListedFormula;
import dachshund.office.tag.TagFinder;
import dachshund.web.design.DesignLists;
import dachshund.web.design.DesignLists.Asked;
import dachshund.web.page.Shown;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;

/** Writing a formula: what it gives now, and where it cannot be read, while it is typed. */
@Needs(Right.DESIGN)
@Controller
class FormulaController {

    private static final Duration LOOK_BACK = Duration.ofMinutes(10);

    private final Drafts drafts;
    private final OwnSources own;
    private final Engine engine;
    private final TagFinder finder;
    private final Shown shown;
    private final DesignLists lists;

    FormulaController(Drafts drafts, Engine engine, TagFinder finder, Shown shown, OwnSources own, DesignLists lists) {
        this.lists = lists;
        this.own = own;
        this.drafts = drafts;
        this.engine = engine;
        this.finder = finder;
        this.shown = shown;
    }

    /** The list of those that there are. */
    @GetMapping("/plant/formulas")
    String list(Asked asked, Model model) {
        lists.show(asked.query(ListedFormula.KIND.id()), model);
        return "plant/formulas";
    }

    /** A new formula tag, in the first source of formula tags. */
    @Needs(Right.DESIGN)
    @GetMapping("/plant/formulas/new")
    String fresh(Model model) {
        SourceDefinition source = own.first(FormulaTag.LINK);
        List<?> tags = model.getAttribute("tags") instanceof List<?> chosen ? chosen : List.of();
        Map<String, TagRef> inputs =
                FormulaInputs.proposed(tags.stream().map(TagRef.class::cast).toList(), finder);
        Map<String, String> values = new LinkedHashMap<>();
        values.put(FormulaTag.FORMULA, String.join(" + ", inputs.keySet()));
        model.addAttribute("source", source);
        model.addAttribute("kind", engine.sources().kind(FormulaTag.LINK));
        model.addAttribute("help", FormulaFunctions.HELP);
        model.addAttribute("address", "");
        model.addAttribute("values", values);
        model.addAttribute("kinds", DataKind.values());
        model.addAttribute("fieldProblem", "");
        model.addAttribute("seen", drafts.revision(source.id()));
        model.addAttribute("inputs", FormulaInputs.named(FormulaTag.lines(inputs), finder));
        return "plant/formula";
    }

    /** What the formula gives now, or what is wrong with it and where. */
    @PostMapping("/plant/formulas/check")
    String check(
            @RequestParam(defaultValue = "") String formula,
            @RequestParam(defaultValue = "number") String kind,
            @RequestParam(name = "input-name", required = false) List<String> names,
            @RequestParam(name = "input-tag", required = false) List<String> keys,
            Model model) {
        try {
            Map<String, TagRef> inputs = FormulaTag.inputs(
                    FormulaInputs.lines(names == null ? List.of() : names, keys == null ? List.of() : keys));
            Formula read = Formula.read(formula, inputs.keySet());
            Instant now = engine.clock().now();
            Map<String, InputHistory> known = new HashMap<>();
            inputs.forEach((name, ref) -> {
                InputHistory history = new InputHistory(
                        read.longestWindow().compareTo(LOOK_BACK) > 0 ? read.longestWindow() : LOOK_BACK);
                List<TagValue> recent = engine.tags().entry(ref).look(now).since(now.minus(LOOK_BACK));
                recent.forEach(value -> history.take(value, now));
                if (recent.isEmpty() && engine.tags().entry(ref).value().arrived()) {
                    history.take(engine.tags().entry(ref).value(), now);
                }
                known.put(name, history);
            });
            TagValue result = read.evaluate(known, TagFacts.kind(kind), now);
            model.addAttribute("result", result.value().isPresent() ? shown.value(result) : "no value");
            model.addAttribute("quality", result.quality());
            model.addAttribute("limited", read.longestWindow().compareTo(LOOK_BACK) > 0);
        } catch (FormulaProblem problem) {
            int to = Math.min(formula.length(), Math.max(problem.to(), problem.from()));
            int from = Math.min(problem.from(), to);
            model.addAttribute("fieldProblem", problem.getMessage());
            model.addAttribute("before", formula.substring(0, from));
            model.addAttribute("here", from == to ? "▮" : formula.substring(from, to));
            model.addAttribute("after", formula.substring(to));
        } catch (IllegalArgumentException problem) {
            model.addAttribute("fieldProblem", problem.getMessage());
        }
        return "plant/formula :: check";
    }

    /** Tags that a person may pick for a field, as a part of a page. */
    @GetMapping("/plant/pick")
    String pick(@RequestParam(defaultValue = "") String q, Model model) {
        List<TagFinder.FoundTag> found = q.isBlank() ? List.of() : finder.find("", q);
        model.addAttribute(
                "picks",
                found.stream()
                        .limit(12)
                        .map(tag -> new Pick(
                                tag.key(),
                                tag.source().name() + " / " + tag.info().fullName(),
                                FormulaInputs.free(tag.info().name(), Set.of()),
                                tag.info().unit()))
                        .toList());
        model.addAttribute("more", Math.max(0, found.size() - 12));
        model.addAttribute("q", q);
        return "plant/pick";
    }

    /** A tag to pick: its key, its full name, a short name for a formula, its unit. */
    public record Pick(String key, String tag, String name, String unit) {}

    /** A new kept tag, in the first source of kept tags. */
    @Needs(Right.DESIGN)
    @GetMapping("/plant/kept/new")
    String kept() {
        return "redirect:/plant/sources/" + own.first(KeptKind.ID).id() + "/tags/edit";
    }
}
