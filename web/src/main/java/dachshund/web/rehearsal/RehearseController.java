package dachshund.web.rehearsal;

import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.row.Made;
import dachshund.core.window.Span;
import dachshund.core.window.WindowProblem;
import dachshund.core.work.Progress;
import dachshund.office.definition.Definitions;
import dachshund.office.rehearse.WindowRehearsal;
import dachshund.office.rehearse.WindowRehearsal.Result;
import dachshund.office.window.Windows;
import dachshund.office.work.Work;
import dachshund.web.page.Shown;
import dachshund.web.page.Times;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.work.LongWork;
import dachshund.web.work.Remembered;
import java.security.Principal;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** A design as it is drafted, rehearsed over a window of the archive. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/records/{id}/rehearse")
class RehearseController {

    private static final String USUAL = "yesterday";
    private static final int BAR = 46;

    private final WindowRehearsal rehearsal;
    private final Rehearsing rehearsing;
    private final Definitions definitions;
    private final Windows windows;
    private final LongWork longWork;
    private final Shown shown;
    private final Times times;
    private final Remembered<Rehearsed> results = new Remembered<>();

    /** What came of it, of the design as it was then. */
    public record Rehearsed(RecorderDefinition recorder, Span span, String window, Result result) {}

    /** One part of the window: how high its bar is, and what it says. */
    public record Bar(int height, String words) {}

    RehearseController(
            WindowRehearsal rehearsal,
            Rehearsing rehearsing,
            Definitions definitions,
            Windows windows,
            LongWork longWork,
            Shown shown,
            Times times) {
        this.rehearsal = rehearsal;
        this.rehearsing = rehearsing;
        this.definitions = definitions;
        this.windows = windows;
        this.longWork = longWork;
        this.shown = shown;
        this.times = times;
    }

    private static String page(String id) {
        return "/records/" + id + "/rehearse";
    }

    private RecorderDefinition recorder(String id) {
        return definitions
                .find(RecorderDefinition.class, id)
                .orElseThrow(() -> new IllegalArgumentException("This recorder is not there any more."));
    }

    @GetMapping
    String form(@PathVariable String id, Model model) {
        return form(id, USUAL, model);
    }

    /** What is wrong with a window is told by its field. */
    private String form(String id, String window, Model model) {
        model.addAttribute("recorder", recorder(id));
        model.addAttribute("window", window);
        return "rehearsal/rehearse";
    }

    @PostMapping
    String rehearse(
            @PathVariable String id,
            @RequestParam(defaultValue = "") String window,
            Principal by,
            Model model,
            RedirectAttributes flash) {
        RecorderDefinition recorder = recorder(id);
        try {
            Span span = windows.span(window);
            return longWork.begin(
                    "Rehearsing " + recorder.name(),
                    by,
                    page(id),
                    flash,
                    progress -> rehearsed(recorder, span, window.strip(), progress));
        } catch (WindowProblem wrong) {
            return form(id, window, model);
        }
    }

    private Work.Outcome rehearsed(RecorderDefinition recorder, Span span, String window, Progress progress)
            throws Exception {
        try {
            Result result = rehearsal.run(recorder, definitions.plant(), span, progress);
            String key = results.put(new Rehearsed(recorder, span, window, result));
            return new Work.Outcome(
                    "Rehearsed: " + shown.count(result.rows(), "row") + ", and nothing was written.",
                    true,
                    page(recorder.id()) + "/" + key);
        } catch (IllegalArgumentException | Problem problem) {
            return new Work.Outcome(problem.getMessage(), false, page(recorder.id()));
        }
    }

    @GetMapping("/{key}")
    String result(@PathVariable String id, @PathVariable String key, Model model, RedirectAttributes flash) {
        Optional<Rehearsed> found =
                results.find(key).filter(each -> each.recorder().id().equals(id));
        if (found.isEmpty()) {
            flash.addFlashAttribute("problem", "This rehearsal is not here any more; rehearse again.");
            return "redirect:" + page(id);
        }
        Rehearsed of = found.get();
        model.addAttribute("recorder", of.recorder());
        model.addAttribute("rehearsed", of);
        model.addAttribute("result", of.result());
        model.addAttribute("bars", bars(of));
        model.addAttribute("changed", !recorder(id).equals(of.recorder()));
        model.addAttribute("first", lines(of.recorder(), of.result().first()));
        model.addAttribute("last", lines(of.recorder(), of.result().last()));
        return "rehearsal/rehearsed";
    }

    private List<Rehearsing.Line> lines(RecorderDefinition recorder, List<Made> made) {
        return made.stream()
                .map(each -> rehearsing.line(recorder, each))
                .map(line -> new Rehearsing.Line(
                        line.values().stream()
                                .map(value -> value.equals(Rehearsing.NEXT) ? "…" : value)
                                .toList(),
                        line.reason()))
                .toList();
    }

    private List<Bar> bars(Rehearsed of) {
        long most = Math.max(1, of.result().most());
        Duration part = Duration.between(of.span().from(), of.span().to()).dividedBy(WindowRehearsal.PARTS);
        List<Bar> bars = new ArrayList<>();
        for (int i = 0; i < WindowRehearsal.PARTS; i++) {
            long firings = of.result().firings()[i];
            bars.add(new Bar(
                    (int) Math.ceil((double) firings * BAR / most),
                    times.full(of.span().from().plus(part.multipliedBy(i))) + ": "
                            + (firings == 0 ? "no When fires" : shown.count(firings) + " times")));
        }
        return bars;
    }
}
