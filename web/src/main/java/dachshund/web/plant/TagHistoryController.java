package dachshund.web.plant;

import dachshund.core.aggregate.Samples;
import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.source.LinkProblem;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagText;
import dachshund.core.tag.TagValue;
import dachshund.core.time.OpcUaTime;
import dachshund.core.window.Span;
import dachshund.core.window.WindowProblem;
import dachshund.engine.Engine;
import dachshund.office.archive.ByHand;
import dachshund.office.archive.ByHandTable.Entered;
import dachshund.office.archive.Histories;
import dachshund.office.archive.Histories.History;
import dachshund.office.audit.Audit;
import dachshund.office.tag.TagFinder;
import dachshund.office.tag.TagFinder.FoundTag;
import dachshund.office.window.Windows;
import dachshund.web.page.Times;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.plant.TagController.Plot;
import java.security.Principal;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseBody;

/** The history on the card of a tag: values, a plot, and values that somebody enters or corrects. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/plant/tag/history")
class TagHistoryController {

    /** So many are asked of a source at once. */
    private static final int HISTORY = 5000;

    private static final int PAGE = 50;
    private static final int OUTLINE_POINTS = 600;
    private static final Duration AROUND = Duration.ofMinutes(2);
    /** The end of the year 9999. */
    private static final long LAST_MILLIS = 253_402_300_799_999L;

    private final Engine engine;
    private final TagFinder finder;
    private final Windows windows;
    private final Histories histories;
    private final ByHand byHand;
    private final Audit audit;
    private final Times times;

    TagHistoryController(
            Engine engine,
            TagFinder finder,
            Windows windows,
            Histories histories,
            ByHand byHand,
            Audit audit,
            Times times) {
        this.engine = engine;
        this.finder = finder;
        this.windows = windows;
        this.histories = histories;
        this.byHand = byHand;
        this.audit = audit;
        this.times = times;
    }

    private FoundTag tag(String key) {
        return finder.find(TagFinder.ref(key)).orElseThrow();
    }

    /** The history of a tag: that of the archive, or the one that its source keeps itself. */
    @GetMapping
    String history(
            @RequestParam String key,
            @RequestParam(defaultValue = "last 1 h") String window,
            @RequestParam(defaultValue = "archive") String from,
            @RequestParam(defaultValue = "1") int page,
            Model model) {
        FoundTag tag = tag(key);
        model.addAttribute("window", window);
        try {
            Span span = windows.span(window);
            if (from.equals("source")) {
                ofSource(tag, span, model);
            } else {
                ofArchive(tag, span, page, model);
                model.addAttribute("plot", tag.info().kind().numeric());
                model.addAttribute("span", span);
            }
        } catch (LinkProblem | Problem | WindowProblem | IllegalArgumentException problem) {
            model.addAttribute("fieldProblem", problem.getMessage());
        }
        model.addAttribute("shownTag", tag.info());
        model.addAttribute("key", key);
        return "plant/tag-history";
    }

    /** A value of the past, entered or corrected; what was there before stays, with who and why. */
    @Needs(Right.TYPE)
    @PostMapping("/value")
    String enter(
            @RequestParam String key,
            @RequestParam(defaultValue = "") String at,
            @RequestParam(defaultValue = "") String value,
            @RequestParam(defaultValue = "") String why,
            Principal by,
            Model model) {
        FoundTag tag = tag(key);
        model.addAttribute("tag", tag);
        try {
            Instant instant = ByHand.instant(at, engine.zone());
            Optional<Object> typed = value.isBlank()
                    ? Optional.empty()
                    : Optional.of(TagText.read(tag.info().kind(), value));
            Optional<Object> was = byHand.enter(tag, instant, typed, why, by.getName());
            audit.note(
                    by.getName(),
                    "entered a value of the past",
                    tag.source().name() + " / " + tag.info().fullName() + " at " + times.full(instant) + ": "
                            + typed.map(TagText::write).orElse("none") + " (was "
                            + was.map(Object::toString).orElse("none") + "): " + why.strip());
            model.addAttribute(
                    "entered",
                    was.map(before -> "It was " + before + "; that stays noted beside it.")
                            .orElse("It is in the archive; there was none at that instant."));
            model.addAttribute("around", instant.minus(AROUND) + " to " + instant.plus(AROUND));
        } catch (IllegalArgumentException | Problem problem) {
            model.addAttribute("at", at);
            model.addAttribute("typed", value);
            model.addAttribute("why", why);
            model.addAttribute("fieldProblem", problem.getMessage());
        }
        return "plant/tag-by-hand";
    }

    private void ofArchive(FoundTag tag, Span span, int page, Model model) throws Problem {
        long about = histories.count(tag.ref(), span.from(), span.to());
        if (about > Histories.AT_ONCE) {
            model.addAttribute("tooMany", about);
            return;
        }
        History history = histories.read(tag.ref(), span.from(), span.to());
        int count = history.count(span.from(), span.to());
        int pages = (count + PAGE - 1) / PAGE;
        int shownPage = Math.max(1, Math.min(page, pages));
        model.addAttribute("values", history.newest(span.from(), span.to(), (shownPage - 1) * PAGE, PAGE));
        model.addAttribute("count", count);
        model.addAttribute("page", shownPage);
        model.addAttribute("pages", pages);
        model.addAttribute("damaged", history.damaged());
        Map<Instant, String> notes = new HashMap<>();
        for (Entered entered : byHand.entered(tag.ref(), span.from(), span.to())) {
            notes.merge(
                    OpcUaTime.toInstant(entered.at()),
                    entered.was().map(was -> "was " + was).orElse("there was none") + "; " + entered.who() + ", "
                            + times.full(entered.noted()) + ": " + entered.why(),
                    (newer, older) -> newer + " · before that: " + older);
        }
        model.addAttribute("notes", notes);
    }

    private void ofSource(FoundTag tag, Span span, Model model) throws LinkProblem {
        List<TagValue> values = engine.sources().history(tag.ref(), span.from(), span.to(), HISTORY);
        boolean more = values.size() >= HISTORY;
        int first = more ? 0 : Math.max(0, values.size() - PAGE);
        model.addAttribute("values", values.subList(first, Math.min(values.size(), first + PAGE)));
        model.addAttribute("count", values.size());
        model.addAttribute("more", more);
    }

    /**
     * Points of a plot of the archive over a time.
     *
     * @param begin and end: milliseconds since 1970
     */
    @GetMapping("/plot")
    @ResponseBody
    Plot historyPlot(@RequestParam String key, @RequestParam long begin, @RequestParam long end) throws Problem {
        FoundTag tag = tag(key);
        if (begin < 0 || end <= begin || end > LAST_MILLIS) {
            throw new IllegalArgumentException("A plot goes from a time after 1970 to a later one.");
        }
        Samples points = histories.outline(
                tag.ref(),
                Instant.ofEpochMilli(begin),
                Instant.ofEpochMilli(end),
                OUTLINE_POINTS,
                tag.info().kind() != DataKind.NUMBER);
        List<Double> times = new ArrayList<>();
        List<Double> numbers = new ArrayList<>();
        for (int i = 0; i < points.size(); i++) {
            times.add(Plot.at(OpcUaTime.toInstant(points.time(i))));
            numbers.add(points.grade(i) == Samples.GOOD ? points.value(i) : null);
        }
        return new Plot(times, numbers);
    }
}
