package dachshund.web.keeping;

import dachshund.core.archive.KeptFor;
import dachshund.core.definition.EquipmentClassDefinition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.keep.Assigned;
import dachshund.core.keep.Density;
import dachshund.core.keep.KeepingRuleDefinition;
import dachshund.core.keep.Selection;
import dachshund.core.tag.TagRef;
import dachshund.core.time.PeriodText;
import dachshund.engine.Engine;
import dachshund.engine.said.Said;
import dachshund.office.archive.Filling;
import dachshund.office.archive.Upkeep;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.tag.TagFinder;
import dachshund.web.design.DesignLists;
import dachshund.web.design.DesignLists.Asked;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import java.security.Principal;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.ModelAttribute;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** Keeping rules: their list with what they keep, and the page of one, where it is designed and where it says how it stands. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/plant/keeping")
class KeepingController {

    private static final int PAGE = 100;
    private static final int EXAMPLES = 8;

    private final Definitions definitions;
    private final Drafts drafts;
    private final DesignLists lists;
    private final TagFinder finder;
    private final RuleState states;
    private final Engine engine;
    private final Upkeep upkeep;
    private final Filling filling;

    /** What a form holds, as it was typed. */
    public record Form(
            String id,
            String name,
            String description,
            String source,
            String folder,
            String equipmentClass,
            String words,
            List<String> tag,
            String way,
            String every,
            String deadband,
            String percent,
            String days,
            String summaries,
            int seen) {

        public Form {
            id = text(id);
            name = text(name);
            description = text(description);
            source = text(source);
            folder = text(folder);
            equipmentClass = text(equipmentClass);
            words = text(words);
            tag = tag == null
                    ? List.of()
                    : tag.stream().filter(each -> !each.isBlank()).toList();
            way = "rate".equals(way) ? "rate" : "change";
            every = text(every);
            deadband = text(deadband);
            percent = text(percent);
            days = text(days);
            summaries = text(summaries);
        }

        private static String text(String given) {
            return given == null ? "" : given.strip();
        }

        static Form of(KeepingRuleDefinition rule, int seen) {
            Selection which = rule.which();
            Density how = rule.how();
            return new Form(
                    rule.id(),
                    rule.name(),
                    rule.description(),
                    which.source(),
                    which.folder(),
                    which.equipmentClass(),
                    which.words(),
                    which.ticked().stream().map(KeepingController::key).toList(),
                    how.every().isPresent() ? "rate" : "change",
                    how.every().map(PeriodText::write).orElse("10 s"),
                    how.deadband() == 0
                            ? ""
                            : java.math.BigDecimal.valueOf(how.deadband())
                                    .stripTrailingZeros()
                                    .toPlainString(),
                    how.percent() ? "yes" : "",
                    rule.days() == 0 ? "" : Integer.toString(rule.days()),
                    rule.summaries() == 0
                            ? ""
                            : rule.summaries() == KeptFor.LONGEST ? "ever" : Integer.toString(rule.summaries()),
                    seen);
        }

        Selection which() {
            return new Selection(tag.stream().map(TagFinder::ref).toList(), source, folder, equipmentClass, words);
        }

        private Density how() {
            if (way.equals("rate")) {
                return Density.every(PeriodText.read(every));
            }
            if (deadband.isEmpty()) {
                return Density.CHANGES;
            }
            try {
                return new Density(
                        Optional.empty(), Double.parseDouble(deadband.replace(',', '.')), !percent.isEmpty());
            } catch (NumberFormatException strange) {
                throw new IllegalArgumentException("A deadband is a number, such as 0.5, or is left empty.", strange);
            }
        }

        private static int days(String typed, int ever) {
            if (typed.isEmpty()) {
                return 0;
            }
            if (typed.equalsIgnoreCase("ever")) {
                return ever;
            }
            try {
                return Integer.parseInt(typed);
            } catch (NumberFormatException strange) {
                throw new IllegalArgumentException("Write for how many whole days, such as 90, or ever.", strange);
            }
        }

        /** @throws IllegalArgumentException with a sentence, where it is no rule */
        KeepingRuleDefinition rule() {
            if (which().empty()) {
                throw new IllegalArgumentException(
                        "Say which tags are kept: tick some, or choose a source, a folder, a class or words.");
            }
            return new KeepingRuleDefinition(
                    id.isEmpty() ? Definitions.newId() : id,
                    name,
                    description,
                    which(),
                    how(),
                    days(days, 0),
                    days(days, 0) == 0 ? 0 : days(summaries, KeptFor.LONGEST));
        }
    }

    /** A ticked tag in the form. */
    public record Ticked(String key, String name, boolean there) {}

    KeepingController(
            Definitions definitions,
            Drafts drafts,
            DesignLists lists,
            TagFinder finder,
            RuleState states,
            Engine engine,
            Upkeep upkeep,
            Filling filling) {
        this.filling = filling;
        this.definitions = definitions;
        this.drafts = drafts;
        this.lists = lists;
        this.finder = finder;
        this.states = states;
        this.engine = engine;
        this.upkeep = upkeep;
    }

    private static String key(TagRef tag) {
        return tag.source() + " " + tag.address();
    }

    @GetMapping
    String list(Asked asked, Model model) {
        model.addAttribute("trouble", states.trouble());
        lists.show(asked.query("KEEPING_RULE"), model);
        return "keeping/rules";
    }

    /** A new one, of the tags that were ticked or of everything. */
    @GetMapping("/new")
    String fresh(Model model) {
        List<?> tags = model.getAttribute("tags") instanceof List<?> chosen ? chosen : List.of();
        Form form = new Form(
                "",
                definitions.freeName(KeepingRuleDefinition.class, "", "Kept"),
                "",
                "",
                "",
                "",
                "",
                tags.stream()
                        .map(TagRef.class::cast)
                        .map(KeepingController::key)
                        .toList(),
                "change",
                "10 s",
                "",
                "",
                "90",
                "1100",
                0);
        return form(form, "", model);
    }

    @GetMapping("/{id}")
    String one(@PathVariable String id, @RequestParam(defaultValue = "1") int page, Model model) {
        KeepingRuleDefinition rule =
                definitions.find(KeepingRuleDefinition.class, id).orElseThrow();
        form(Form.of(rule, drafts.revision(id)), "", model);
        model.addAttribute("rule", rule);
        model.addAttribute("drafted", definitions.draft(id).isPresent());
        state(rule, page, model);
        return "keeping/rule";
    }

    /** How it stands, by itself, to be asked for again and again. */
    @GetMapping("/{id}/state")
    String state(@PathVariable String id, @RequestParam(defaultValue = "1") int page, Model model) {
        KeepingRuleDefinition rule =
                definitions.find(KeepingRuleDefinition.class, id).orElseThrow();
        model.addAttribute("rule", rule);
        state(rule, page, model);
        return "keeping/rule :: state";
    }

    private void state(KeepingRuleDefinition rule, int page, Model model) {
        List<RuleState.Line> lines = states.lines(rule);
        int pages = Math.max(1, (lines.size() + PAGE - 1) / PAGE);
        int shown = Math.max(1, Math.min(page, pages));
        model.addAttribute("state", states.of(rule).orElse(null));
        model.addAttribute("trouble", states.trouble());
        model.addAttribute("damage", states.damage());
        model.addAttribute("tagLines", lines.subList((shown - 1) * PAGE, Math.min(lines.size(), shown * PAGE)));
        model.addAttribute("page", shown);
        model.addAttribute("pages", pages);
        model.addAttribute(
                "lines",
                Stream.of(engine.archive().said(), upkeep.said(), filling.said())
                        .flatMap(List::stream)
                        .sorted(Comparator.comparing(Said.Line::at).reversed())
                        .toList());
    }

    private String form(Form form, String problem, Model model) {
        model.addAttribute("form", form);
        model.addAttribute(
                "title",
                definitions
                        .find(KeepingRuleDefinition.class, form.id())
                        .map(KeepingRuleDefinition::name)
                        .orElse("New keeping rule"));
        model.addAttribute("fieldProblem", problem);
        model.addAttribute("sources", definitions.all(SourceDefinition.class));
        model.addAttribute("classes", definitions.all(EquipmentClassDefinition.class));
        model.addAttribute(
                "folders",
                definitions.all(SourceDefinition.class).stream()
                        .flatMap(source -> source.tags().stream())
                        .map(tag -> tag.path())
                        .filter(path -> !path.isEmpty())
                        .distinct()
                        .sorted()
                        .limit(500)
                        .toList());
        model.addAttribute(
                "ticked",
                form.tag().stream()
                        .map(key -> finder.find(TagFinder.ref(key))
                                .map(found -> new Ticked(
                                        key,
                                        found.source().name() + " / "
                                                + found.info().fullName(),
                                        true))
                                .orElse(new Ticked(key, "a tag that is gone", false)))
                        .toList());
        meant(form, model);
        return "keeping/rule";
    }

    /** Which tags the form means as it stands, while one types. */
    @PostMapping("/meant")
    String meant(@ModelAttribute Form form, Model model) {
        List<KeepingRuleDefinition> all = new ArrayList<>(definitions.all(KeepingRuleDefinition.class).stream()
                .filter(each -> !each.id().equals(form.id()))
                .toList());
        String id = form.id().isEmpty() ? "new" : form.id();
        KeepingRuleDefinition rule =
                new KeepingRuleDefinition(id, form.name(), "", form.which(), Density.CHANGES, 0, 0);
        all.add(rule);
        Assigned assigned =
                Assigned.of(all, definitions.all(SourceDefinition.class), definitions.all(EquipmentDefinition.class));
        List<Assigned.Tag> theirs = assigned.of(id);
        model.addAttribute("meant", theirs.size());
        model.addAttribute(
                "examples",
                theirs.stream()
                        .limit(EXAMPLES)
                        .map(tag -> tag.source().name() + " / " + tag.info().fullName())
                        .toList());
        model.addAttribute("byTerms", form.which().byTerms());
        model.addAttribute("empty", form.which().empty());
        model.addAttribute("gone", assigned.missing(id).size());
        Map<String, Integer> others = assigned.keptByOthers(id);
        model.addAttribute(
                "others",
                others.entrySet().stream()
                        .map(each -> each.getValue() + " of them "
                                + (each.getValue() == 1 ? "is" : "are") + " kept by "
                                + definitions
                                        .find(KeepingRuleDefinition.class, each.getKey())
                                        .map(KeepingRuleDefinition::name)
                                        .orElse("another rule"))
                        .toList());
        return "keeping/rule :: meant";
    }

    @PostMapping
    String save(@ModelAttribute Form form, Principal by, Model model, RedirectAttributes flash) {
        try {
            String problem = definitions.nameProblem(KeepingRuleDefinition.class, form.id(), form.name());
            if (!problem.isEmpty()) {
                throw new IllegalArgumentException(problem);
            }
            KeepingRuleDefinition rule = form.rule();
            drafts.edit(rule, form.seen(), by.getName());
            flash.addFlashAttribute("said", rule.name() + " is drafted; it keeps values once it is released.");
            return "redirect:/plant/keeping/" + rule.id();
        } catch (IllegalArgumentException problem) {
            if (!form.id().isEmpty()) {
                definitions.find(KeepingRuleDefinition.class, form.id()).ifPresent(rule -> {
                    model.addAttribute("rule", rule);
                    model.addAttribute("drafted", definitions.draft(form.id()).isPresent());
                    state(rule, 1, model);
                });
            }
            return form(form, problem.getMessage(), model);
        }
    }
}
