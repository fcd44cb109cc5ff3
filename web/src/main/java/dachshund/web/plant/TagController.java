package dachshund.web.plant;

import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.formula.FormulaTag;
import dachshund.core.source.LinkProblem;
import dachshund.core.tag.TagFacts;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagText;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PeriodText;
import dachshund.engine.Engine;
import dachshund.engine.kept.KeptKind;
import dachshund.engine.source.Sources;
import dachshund.office.archive.Histories;
import dachshund.office.audit.Audit;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.design.ListedFormula;
import dachshund.office.tag.TagFinder;
import dachshund.office.tag.TagFinder.FoundTag;
import dachshund.web.page.Shown;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.people.RightsHeld;
import java.security.Principal;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.IntStream;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseBody;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** The card of one tag: its value, its last minutes, its facts, where it is used, and writing it. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/plant/tag")
class TagController {

    private static final Duration PLOT = Duration.ofMinutes(10);
    private static final int PLOT_POINTS = 600;
    private static final int MOST_BEFORE = 5000;

    private final Definitions definitions;
    private final Drafts drafts;
    private final Engine engine;
    private final TagFinder finder;
    private final LiveTags live;
    private final Shown shown;
    private final Audit audit;
    private final Histories histories;

    /** Points of a plot: seconds since 1970 and values; an absent value is a gap. */
    public record Plot(List<Double> times, List<Double> values) {

        /** By the time of arrival; the last value goes on until now. */
        static Plot of(List<TagValue> values, Instant now) {
            List<Double> times = new ArrayList<>(
                    values.stream().map(value -> at(value.receiveTime())).toList());
            List<Double> numbers = new ArrayList<>();
            values.forEach(value -> numbers.add(
                    value.quality().isBad()
                            ? null
                            : value.value().map(LiveTags::number).orElse(null)));
            if (!values.isEmpty()) {
                times.add(at(now));
                numbers.add(numbers.get(numbers.size() - 1));
            }
            return new Plot(times, numbers);
        }

        static Double at(Instant time) {
            return time.getEpochSecond() + time.getNano() / 1e9;
        }
    }

    TagController(
            Definitions definitions,
            Drafts drafts,
            Engine engine,
            TagFinder finder,
            LiveTags live,
            Shown shown,
            Audit audit,
            Histories histories) {
        this.histories = histories;
        this.definitions = definitions;
        this.drafts = drafts;
        this.engine = engine;
        this.finder = finder;
        this.live = live;
        this.shown = shown;
        this.audit = audit;
    }

    private FoundTag tag(String key) {
        return finder.find(TagFinder.ref(key)).orElseThrow();
    }

    @GetMapping
    String card(@RequestParam String key, Model model) {
        FoundTag tag = tag(key);
        value(tag, model);
        model.addAttribute("users", definitions.users(tag.ref()));
        model.addAttribute("seen", drafts.revision(tag.source().id()));
        model.addAttribute("facts", tag.info().facts());
        model.addAttribute(
                "changesWithin",
                tag.info().changesWithin().map(PeriodText::write).orElse(""));
        model.addAttribute("mayWrite", RightsHeld.has(toWrite(tag)));
        model.addAttribute("mayEnter", RightsHeld.has(Right.TYPE));
        boolean formula = tag.source().link().equals(FormulaTag.LINK);
        model.addAttribute(
                "writeProblem",
                formula
                        ? "It is computed from other tags, so it cannot be written."
                        : engine.sources().writeProblem(running(tag.source()), tag.info()));
        Map<String, String> how = new TreeMap<>(tag.info().how());
        how.computeIfPresent(FormulaTag.INPUTS, (name, lines) -> formula ? FormulaInputs.words(lines, finder) : lines);
        model.addAttribute("how", how);
        model.addAttribute(
                "describes", engine.sources().kind(tag.source().link()).describes());
        model.addAttribute("offers", engine.sources().kind(tag.source().link()).browses());
        model.addAttribute(
                "design", formula ? ListedFormula.of(tag.source(), tag.info()).id() : "");
        model.addAttribute("history", tag.source().link().equals("opcua"));
        model.addAttribute("keptBy", engine.archive().ruleOf(tag.ref()).orElse(null));
        return "plant/tag";
    }

    /** Writing goes by what is live; a source that is only drafted goes by its draft. */
    private SourceDefinition running(SourceDefinition source) {
        return engine.sources().find(source.id()).map(run -> run.definition()).orElse(source);
    }

    private static Right toWrite(FoundTag tag) {
        return tag.source().link().equals(KeptKind.ID) ? Right.TYPE : Right.WRITE_PLANT;
    }

    private void value(FoundTag tag, Model model) {
        TagValue value = tag.entry().value();
        model.addAttribute("tag", tag);
        model.addAttribute("row", live.row(tag, engine.clock().now()));
        model.addAttribute("value", value);
        model.addAttribute(
                "code",
                value.quality().code() == 0
                        ? ""
                        : String.format("0x%08X", value.quality().code()));
        long difference =
                Duration.between(value.sourceTime(), value.receiveTime()).toMillis();
        model.addAttribute(
                "difference",
                value.arrived()
                        ? (difference < 0 ? "source is ahead by " : "")
                                + PeriodText.roughly(Duration.ofMillis(Math.abs(difference)))
                        : "");
        model.addAttribute("ahead", value.arrived() && difference < -2000);
        model.addAttribute(
                "lastWrite",
                engine.sources()
                        .find(tag.source().id())
                        .flatMap(run -> run.lastWrite(tag.info().address()))
                        .orElse(null));
    }

    @GetMapping("/value")
    String valueOnly(@RequestParam String key, Model model) {
        value(tag(key), model);
        return "plant/tag :: live";
    }

    @GetMapping("/plot")
    @ResponseBody
    Plot plot(@RequestParam String key) {
        Instant now = engine.clock().now();
        FoundTag tag = tag(key);
        List<TagValue> values = new ArrayList<>(tag.entry().look(now).since(now.minus(PLOT)));
        values.addAll(0, before(tag, values.isEmpty() ? now : values.get(0).receiveTime(), now));
        int step = Math.max(1, values.size() / PLOT_POINTS);
        return Plot.of(
                IntStream.range(0, values.size())
                        .filter(i -> i % step == 0 || i == values.size() - 1)
                        .mapToObj(values::get)
                        .toList(),
                now);
    }

    /** What the archive knows of the minutes before the first value that is remembered: after a start that is all of them. */
    private List<TagValue> before(FoundTag tag, Instant first, Instant now) {
        Instant from = now.minus(PLOT);
        if (!first.isAfter(from)) {
            return List.of();
        }
        try {
            return histories.read(tag.ref(), from, first).newest(from, first, 0, MOST_BEFORE);
        } catch (Problem away) {
            return List.of(); // the plot is as long as what is remembered
        }
    }

    /** Replaces facts of the tag in a draft of its source. */
    @PostMapping("/facts")
    String facts(
            @RequestParam String key,
            @RequestParam Map<String, String> all,
            @RequestParam(defaultValue = "") String labels,
            @RequestParam(defaultValue = "") String changesWithin,
            @RequestParam int seen,
            Principal by,
            RedirectAttributes flash) {
        FoundTag tag = tag(key);
        flash.addAttribute("key", key);
        try {
            Map<String, String> facts = new TreeMap<>(all);
            facts.keySet().retainAll(tag.info().facts().keySet());
            TagInfo next =
                    tag.info().replaced(facts).watched(TagFacts.changesWithin(changesWithin), TagFacts.labels(labels));
            drafts.edit(
                    tag.source()
                            .withTags(tag.source().tags().stream()
                                    .map(each -> each.address().equals(next.address()) ? next : each)
                                    .toList()),
                    seen,
                    by.getName());
            flash.addFlashAttribute(
                    "said",
                    "The facts of " + next.name() + " are changed in the draft of "
                            + tag.source().name() + ".");
        } catch (IllegalArgumentException problem) {
            flash.addFlashAttribute("problem", problem.getMessage() + " Nothing was changed.");
        }
        return "redirect:/plant/tag";
    }

    /** First shows what would be written; with {@code sure} writes it, reads it back and notes it. */
    @Needs(Right.TYPE)
    @PostMapping("/write")
    String write(
            @RequestParam String key,
            @RequestParam(defaultValue = "") String value,
            @RequestParam(defaultValue = "false") boolean sure,
            Principal by,
            Model model) {
        FoundTag tag = tag(key);
        RightsHeld.demand(toWrite(tag));
        model.addAttribute("tag", tag);
        model.addAttribute("typed", value);
        TagRef ref = tag.ref();
        TagValue before = tag.entry().value();
        Instant begun = engine.clock().now();
        model.addAttribute("before", shown.value(before, tag.info()));
        try {
            Object typed = TagText.read(tag.info().kind(), value);
            String problem = engine.sources().writeProblem(running(tag.source()), tag.info());
            if (problem.isEmpty()
                    && tag.info().range().isPresent()
                    && typed instanceof Number number
                    && !tag.info().range().get().contains(number.doubleValue())) {
                problem = value + " lies outside the range "
                        + tag.info().range().get().words() + ". Nothing was written.";
            }
            if (!problem.isEmpty()) {
                throw new LinkProblem(problem);
            }
            if (!sure) {
                model.addAttribute("ask", true);
                return "plant/tag-write";
            }
            Sources.Written written = engine.sources().write(ref, typed, by.getName());
            engine.happenings()
                    .wrote(
                            ref.source(),
                            tag.info().fullName(),
                            shown.value(written.before(), tag.info()),
                            TagText.write(typed),
                            shown.value(written.after(), tag.info()),
                            by.getName(),
                            "",
                            begun);
            audit.note(
                    by.getName(),
                    "wrote a tag",
                    tag.source().name() + " / " + tag.info().fullName() + ": " + TagText.write(typed) + " (was "
                            + shown.value(written.before(), tag.info()) + ", read back "
                            + shown.value(written.after(), tag.info()) + ")");
            model.addAttribute("written", written);
            model.addAttribute("after", shown.value(written.after(), tag.info()));
        } catch (LinkProblem | IllegalArgumentException problem) {
            if (sure) {
                engine.happenings()
                        .wrote(
                                ref.source(),
                                tag.info().fullName(),
                                shown.value(before, tag.info()),
                                value,
                                "",
                                by.getName(),
                                problem.getMessage(),
                                begun);
                audit.note(
                        by.getName(),
                        "failed to write a tag",
                        tag.source().name() + " / " + tag.info().fullName() + ": " + value + ": "
                                + problem.getMessage());
            }
            model.addAttribute("fieldProblem", problem.getMessage());
        }
        return "plant/tag-write";
    }
}
