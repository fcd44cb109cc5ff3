package dachshund.web.release;

import dachshund.core.definition.Definition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.release.Difference;
import dachshund.core.work.Progress;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Draft;
import dachshund.office.definition.Drafts;
import dachshund.office.definition.Releases;
import dachshund.office.filing.Filings;
import dachshund.office.release.ConfigurationFile;
import dachshund.office.release.ReleaseCheck;
import dachshund.office.work.Work;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.work.LongWork;
import java.nio.charset.StandardCharsets;
import java.security.Principal;
import java.util.List;
import java.util.Set;
import java.util.stream.Collectors;
import org.springframework.http.ContentDisposition;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** The release page: what differs, what follows, one button. */
@Needs(Right.DESIGN)
@Controller
class ReleaseController {

    private static final int PAST = 20;
    /** So many things that cannot work are named. */
    private static final int TOLD = 20;

    private final Definitions definitions;
    private final Releases releases;
    private final Drafts drafts;
    private final Engine engine;
    private final ReleaseCheck check;
    private final Filings filings;
    private final LongWork longWork;

    ReleaseController(
            Definitions definitions,
            Releases releases,
            Drafts drafts,
            Engine engine,
            ReleaseCheck check,
            Filings filings,
            LongWork longWork) {
        this.definitions = definitions;
        this.releases = releases;
        this.drafts = drafts;
        this.engine = engine;
        this.check = check;
        this.filings = filings;
        this.longWork = longWork;
    }

    @GetMapping("/release")
    String show(Model model) {
        List<ReleaseCheck.Item> items = check.items(drafted());
        model.addAttribute("items", items);
        model.addAttribute(
                "fine", items.stream().filter(item -> item.problems().isEmpty()).count());
        model.addAttribute("drafts", definitions.drafts().stream().collect(Collectors.toMap(Draft::id, each -> each)));
        model.addAttribute("fingerprint", releases.fingerprint());
        model.addAttribute("past", releases.newest(PAST));
        return "release/release";
    }

    /** Drafts what an earlier release was; the review that follows is the same as ever. */
    @PostMapping("/release/{release}/roll-back")
    String rollBack(@PathVariable long release, Principal by, RedirectAttributes flash) {
        try {
            int differ = drafts.rollBack(release, by.getName());
            flash.addFlashAttribute(
                    "said",
                    differ == 0
                            ? "Nothing differs from release " + release + "."
                            : "This is what release " + release
                                    + " was, as drafts. Review it and release it, or discard it.");
        } catch (IllegalArgumentException mixed) {
            flash.addFlashAttribute("problem", mixed.getMessage());
        }
        return "redirect:/release";
    }

    private Set<String> drafted() {
        return definitions.drafts().stream().map(Draft::id).collect(Collectors.toSet());
    }

    /** Throws away the ticked drafts, or every one. */
    @PostMapping("/release/discard")
    String discard(
            @RequestParam(defaultValue = "false") boolean part,
            @RequestParam(defaultValue = "") Set<String> id,
            Principal by,
            RedirectAttributes flash) {
        int discarded = drafts.discardAll(part ? id : drafted(), by.getName());
        flash.addFlashAttribute("said", discarded + (discarded == 1 ? " draft is" : " drafts are") + " discarded.");
        return "redirect:/release";
    }

    /** Everything that is live as one JSON file, without secrets. */
    @GetMapping("/release/export")
    ResponseEntity<byte[]> export() {
        return ResponseEntity.ok()
                .contentType(MediaType.APPLICATION_JSON)
                .header(
                        "Content-Disposition",
                        ContentDisposition.attachment()
                                .filename("dachshund release " + definitions.release() + ".json")
                                .build()
                                .toString())
                .body(ConfigurationFile.write(definitions.live(), filings::of).getBytes(StandardCharsets.UTF_8));
    }

    @GetMapping("/release/import")
    String importForm(Model model) {
        model.addAttribute("text", "");
        return "release/import";
    }

    /** Drafts what a file says otherwise; what it does not name stays as it is. */
    @PostMapping("/release/import")
    String importFile(@RequestParam String text, Principal by, Model model, RedirectAttributes flash) {
        try {
            return longWork.begin(
                    "Import of a configuration",
                    by,
                    "/release/import",
                    flash,
                    progress -> imported(text, by.getName(), progress));
        } catch (IllegalArgumentException problem) {
            model.addAttribute("text", text);
            model.addAttribute("problem", problem.getMessage());
            return "release/import";
        }
    }

    private Work.Outcome imported(String text, String by, Progress progress) {
        progress.step("Reading the file", 0, true);
        ConfigurationFile.Taken taken = ConfigurationFile.read(text, definitions.drafted(), engine::sealed);
        progress.step(
                "Looking whether each thing could work here",
                taken.definitions().size(),
                true);
        int looked = 0;
        for (Definition each : taken.definitions()) {
            String problem = engine.unusable(each);
            if (!problem.isEmpty()) {
                throw new IllegalArgumentException(problem);
            }
            progress.done(++looked);
        }
        progress.step("Drafting what differs", 0, false);
        int differ = drafts.editAll(taken.definitions(), by);
        taken.filed().forEach(filings::file);
        return new Work.Outcome(
                differ == 0
                        ? "Nothing in the file differs from what is here."
                        : differ + (differ == 1 ? " thing differs" : " things differ")
                                + " and " + (differ == 1 ? "is" : "are") + " drafted now. Review and release."
                                + (taken.secrets().isEmpty()
                                        ? ""
                                        : " Passwords do not travel; type them anew at: "
                                                + String.join(", ", taken.secrets()) + "."),
                true,
                "/release");
    }

    /**
     * Makes the ticked drafts live, or all.
     *
     * @param part whether the ticked ones alone are meant
     * @param id   of the ticked ones
     */
    @Needs(Right.RELEASE)
    @PostMapping("/release")
    String release(
            @RequestParam String fingerprint,
            @RequestParam(defaultValue = "false") boolean part,
            @RequestParam(defaultValue = "") Set<String> id,
            Principal by,
            RedirectAttributes flash) {
        if (!fingerprint.equals(releases.fingerprint())) {
            flash.addFlashAttribute(
                    "problem", "The drafts have changed since you looked. Here is what would be released now.");
            return "redirect:/release";
        }
        Set<String> released = releases.withNeeded(part ? id : drafted());
        if (released.isEmpty()) {
            flash.addFlashAttribute(
                    "problem", part ? "Nothing was released: nothing is ticked." : "There is nothing to release.");
            return "redirect:/release";
        }
        return longWork.begin(
                "Release of " + released.size() + (released.size() == 1 ? " thing" : " things"),
                by,
                "/release",
                flash,
                progress -> released(released, part ? id : released, fingerprint, by.getName(), progress));
    }

    private Work.Outcome released(
            Set<String> released, Set<String> ticked, String fingerprint, String by, Progress progress) {
        List<ReleaseCheck.Item> items = check.items(released, progress);
        List<String> problems = items.stream()
                .filter(item -> !item.problems().isEmpty())
                .map(item -> item.difference().thing().name() + ": "
                        + item.problems().get(0))
                .toList();
        if (!problems.isEmpty()) {
            return new Work.Outcome(
                    "Nothing was released: some things cannot work yet. " + some(problems), false, "/release");
        }
        releases.release(released, fingerprint, by, progress);
        return new Work.Outcome(
                "Release " + definitions.release() + " is live." + alsoReleased(items, ticked) + left(),
                true,
                next(items));
    }

    /** The first of many, and how many more. */
    private static String some(List<String> sentences) {
        return sentences.stream().limit(TOLD).collect(Collectors.joining(" "))
                + (sentences.size() > TOLD ? " And " + (sentences.size() - TOLD) + " more." : "");
    }

    private String next(List<ReleaseCheck.Item> items) {
        List<Definition> recorders = items.stream()
                .map(ReleaseCheck.Item::difference)
                .filter(each -> each.change() != Difference.Change.REMOVED)
                .map(Difference::thing)
                .filter(thing -> thing instanceof RecorderDefinition)
                .toList();
        if (!definitions.drafts().isEmpty()) {
            return "/release";
        }
        return recorders.size() == 1 ? "/records/" + recorders.get(0).id() : "/watch";
    }

    /** What went with the ticked ones because they need it. */
    private static String alsoReleased(List<ReleaseCheck.Item> items, Set<String> ticked) {
        String also = items.stream()
                .map(item -> item.difference().thing())
                .filter(thing -> !ticked.contains(thing.id()))
                .map(Definition::name)
                .collect(Collectors.joining(", "));
        return also.isEmpty() ? "" : " With it went what it needs: " + also + ".";
    }

    private String left() {
        int left = definitions.drafts().size();
        return left == 0 ? "" : left == 1 ? " One draft stays." : " " + left + " drafts stay.";
    }
}
