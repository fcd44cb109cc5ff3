package dachshund.web.backfill;

import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.StoreProblem;
import dachshund.core.window.Span;
import dachshund.core.window.WindowProblem;
import dachshund.core.work.Progress;
import dachshund.office.audit.Audit;
import dachshund.office.backfill.Backfill;
import dachshund.office.backfill.Backfill.Example;
import dachshund.office.backfill.Backfill.Result;
import dachshund.office.definition.Definitions;
import dachshund.office.window.Windows;
import dachshund.office.work.Work;
import dachshund.web.page.Shown;
import dachshund.web.page.Times;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.work.LongWork;
import dachshund.web.work.Remembered;
import java.security.Principal;
import java.util.List;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** Rows of a time that has been: compared with what a table has, then written where they are missing. */
@Needs(Right.RELEASE)
@Controller
@RequestMapping("/records/{id}/backfill")
class BackfillController {

    private static final String USUAL = "yesterday";

    private final Backfill backfill;
    private final Definitions definitions;
    private final Windows windows;
    private final LongWork longWork;
    private final Audit audit;
    private final Shown shown;
    private final Times times;
    private final Remembered<Compared> compared = new Remembered<>();

    /** What was compared, until it is written or forgotten. */
    public record Compared(String recorder, String destination, String where, Span span, Result result) {}

    /** A destination to choose. */
    public record Choice(String id, String name) {}

    BackfillController(
            Backfill backfill,
            Definitions definitions,
            Windows windows,
            LongWork longWork,
            Audit audit,
            Shown shown,
            Times times) {
        this.backfill = backfill;
        this.definitions = definitions;
        this.windows = windows;
        this.longWork = longWork;
        this.audit = audit;
        this.shown = shown;
        this.times = times;
    }

    private static String page(String id) {
        return "/records/" + id + "/backfill";
    }

    private RecorderDefinition recorder(String id) {
        return definitions
                .find(RecorderDefinition.class, id)
                .orElseThrow(() -> new IllegalArgumentException("This recorder is not there any more."));
    }

    @GetMapping
    String form(@PathVariable String id, Model model) {
        return form(id, USUAL, "", model);
    }

    private String form(String id, String window, String problem, Model model) {
        model.addAttribute("recorder", recorder(id));
        model.addAttribute("window", window);
        model.addAttribute("refusal", problem);
        try {
            model.addAttribute("choices", choices(id));
        } catch (IllegalArgumentException cannot) {
            model.addAttribute("choices", List.of());
            model.addAttribute("refusal", cannot.getMessage());
        }
        return "backfill/backfill";
    }

    private List<Choice> choices(String id) {
        return backfill.wheres(id).stream()
                .map(Where::destination)
                .distinct()
                .map(each -> new Choice(each, name(each)))
                .toList();
    }

    private String name(String destination) {
        return definitions
                .destination(destination)
                .map(DestinationDefinition::name)
                .orElse("a destination");
    }

    @PostMapping
    String compare(
            @PathVariable String id,
            @RequestParam String window,
            @RequestParam(defaultValue = "") String destination,
            Principal by,
            Model model,
            RedirectAttributes flash) {
        RecorderDefinition recorder = recorder(id);
        Span span;
        try {
            span = windows.span(window.isBlank() ? USUAL : window);
        } catch (WindowProblem wrong) {
            return form(id, window, wrong.getMessage(), model);
        }
        return longWork.begin(
                "Comparing rows of " + recorder.name(),
                by,
                page(id),
                flash,
                progress -> compared(recorder, destination, span, progress));
    }

    private Work.Outcome compared(RecorderDefinition recorder, String destination, Span span, Progress progress)
            throws Exception {
        try {
            Result result = backfill.compare(recorder.id(), destination, span, progress);
            String key = compared.put(new Compared(recorder.id(), destination, name(destination), span, result));
            return new Work.Outcome("Compared; nothing is written yet.", true, page(recorder.id()) + "/" + key);
        } catch (IllegalArgumentException | Problem | StoreProblem problem) {
            return new Work.Outcome(problem.getMessage() + " Nothing was written.", false, page(recorder.id()));
        }
    }

    @GetMapping("/{key}")
    String result(@PathVariable String id, @PathVariable String key, Model model, RedirectAttributes flash) {
        Compared found =
                compared.find(key).filter(each -> each.recorder().equals(id)).orElse(null);
        if (found == null) {
            flash.addFlashAttribute("problem", "This comparison is not here any more; compare again.");
            return "redirect:" + page(id);
        }
        model.addAttribute("recorder", recorder(id));
        model.addAttribute("compared", found);
        model.addAttribute("key", key);
        model.addAttribute("missing", texts(found.result().examples()));
        model.addAttribute("different", texts(found.result().others()));
        return "backfill/compared";
    }

    private List<List<String>> texts(List<Example> examples) {
        return examples.stream()
                .map(each -> each.made().stream()
                        .map(cell -> cell == null ? "" : shown.cell(cell))
                        .toList())
                .toList();
    }

    @PostMapping("/{key}")
    String write(@PathVariable String id, @PathVariable String key, Principal by, RedirectAttributes flash) {
        Compared found =
                compared.find(key).filter(each -> each.recorder().equals(id)).orElse(null);
        if (found == null) {
            flash.addFlashAttribute("problem", "This comparison is not here any more; compare again.");
            return "redirect:" + page(id);
        }
        RecorderDefinition recorder = recorder(id);
        return longWork.begin(
                "Backfilling " + recorder.name(),
                by,
                page(id),
                flash,
                progress -> written(recorder, found, key, by.getName(), progress));
    }

    private Work.Outcome written(RecorderDefinition recorder, Compared found, String key, String by, Progress progress)
            throws Exception {
        String what = recorder.name() + ", into " + found.where() + ", "
                + times.full(found.span().from()) + " to "
                + times.full(found.span().to());
        audit.note(by, "began a backfill", what);
        compared.forget(key); // it is not true any more
        try {
            Result result = backfill.write(recorder.id(), found.destination(), found.span(), progress);
            audit.note(by, "backfilled", what + ": " + result.missing() + " rows");
            return new Work.Outcome(
                    shown.count(result.missing(), "row") + (result.missing() == 1 ? " was" : " were") + " written; "
                            + shown.count(result.equal()) + " had been there.",
                    true,
                    "/records/" + recorder.id());
        } catch (IllegalArgumentException | Problem | StoreProblem problem) {
            return new Work.Outcome(
                    problem.getMessage() + " What was written before stays; begin again, and no row is there twice.",
                    false,
                    page(recorder.id()));
        }
    }
}
