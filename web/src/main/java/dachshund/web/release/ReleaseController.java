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
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.security.Principal;
import java.util.Comparator;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.stream.Collectors;
import org.springframework.http.ContentDisposition;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.ModelAttribute;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.multipart.MultipartFile;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** The release page: what differs, what follows, one button. */
@Needs(Right.DESIGN)
@Controller
class ReleaseController {

    private static final int PAST = 20;
    private static final int PAGE = 200;
    /** So many things that cannot work are named. */
    private static final int TOLD = 20;

    private final Definitions definitions;
    private final Releases releases;
    private final Drafts drafts;
    private final Engine engine;
    private final ReleaseCheck check;
    private final Filings filings;
    private final LongWork longWork;

    /**
     * What is ticked in the review.
     *
     * @param part   whether the ticked ones alone are meant
     * @param id     of the ticked ones
     * @param others whether all are meant that stand on other pages of the review
     * @param shown  what stands on this page, ticked or not
     * @param stopped recorders that are to stay stopped
     */
    public record Ticked(boolean part, Set<String> id, boolean others, Set<String> shown, Set<String> stopped) {}

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
    String show(@RequestParam(defaultValue = "1") String page, Model model) {
        List<ReleaseCheck.Item> items = check.items(drafted());
        // What cannot work yet stands first.
        List<ReleaseCheck.Item> sorted = items.stream()
                .sorted(Comparator.comparing(item -> item.problems().isEmpty()))
                .toList();
        int pages = Math.max(1, (sorted.size() + PAGE - 1) / PAGE);
        int at = page.matches("\\d{1,6}") ? Math.max(1, Math.min(Integer.parseInt(page), pages)) : 1;
        List<ReleaseCheck.Item> shown = sorted.subList((at - 1) * PAGE, Math.min(sorted.size(), at * PAGE));
        long fine = fine(shown);
        int others = sorted.size() - shown.size();
        boolean othersFine = fine(items) - fine == others;
        model.addAttribute("items", shown);
        model.addAttribute("total", sorted.size());
        model.addAttribute("page", at);
        model.addAttribute("pages", pages);
        model.addAttribute("others", others);
        model.addAttribute("othersFine", othersFine);
        model.addAttribute("fine", fine + (othersFine ? others : 0));
        model.addAttribute("stuck", sorted.size() - fine(items));
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

    @ModelAttribute("ticked")
    Ticked ticked(
            @RequestParam(defaultValue = "false") boolean part,
            @RequestParam(defaultValue = "") Set<String> id,
            @RequestParam(defaultValue = "false") boolean others,
            @RequestParam(defaultValue = "") Set<String> shown,
            @RequestParam(defaultValue = "") Set<String> stopped) {
        return new Ticked(part, id, others, shown, stopped);
    }

    private static long fine(List<ReleaseCheck.Item> items) {
        return items.stream().filter(item -> item.problems().isEmpty()).count();
    }

    private Set<String> drafted() {
        return definitions.drafts().stream().map(Draft::id).collect(Collectors.toSet());
    }

    private Set<String> chosen(Ticked ticked) {
        if (!ticked.part()) {
            return drafted();
        }
        Set<String> chosen = new HashSet<>(ticked.others() ? drafted() : Set.of());
        chosen.removeAll(ticked.shown());
        chosen.addAll(ticked.id());
        return chosen;
    }

    /** Throws away the ticked drafts, or every one. */
    @PostMapping("/release/discard")
    String discard(@ModelAttribute("ticked") Ticked ticked, Principal by, RedirectAttributes flash) {
        Set<String> chosen = chosen(ticked);
        return longWork.begin("Discarding drafts", by, "/release", flash, progress -> {
            progress.step("Discarding drafts", 0, false);
            int discarded = drafts.discardAll(chosen, by.getName());
            return new Work.Outcome(
                    discarded + (discarded == 1 ? " draft is" : " drafts are") + " discarded.", true, "/release");
        });
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
    String importFile(
            @RequestParam(defaultValue = "") String text,
            @RequestParam(required = false) MultipartFile file,
            Principal by,
            Model model,
            RedirectAttributes flash)
            throws IOException {
        String brought = file == null || file.isEmpty() ? text : new String(file.getBytes(), StandardCharsets.UTF_8);
        try {
            return longWork.begin(
                    "Import of a configuration",
                    by,
                    "/release/import",
                    flash,
                    progress -> imported(brought, by.getName(), progress));
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

    /** Makes the ticked drafts live, or all. */
    @Needs(Right.RELEASE)
    @PostMapping("/release")
    String release(
            @RequestParam String fingerprint,
            @ModelAttribute("ticked") Ticked ticked,
            Principal by,
            RedirectAttributes flash) {
        if (!fingerprint.equals(releases.fingerprint())) {
            flash.addFlashAttribute(
                    "problem", "The drafts have changed since you looked. Here is what would be released now.");
            return "redirect:/release";
        }
        Set<String> chosen = chosen(ticked);
        Set<String> released = releases.withNeeded(chosen);
        if (released.isEmpty()) {
            flash.addFlashAttribute(
                    "problem",
                    ticked.part() ? "Nothing was released: nothing is ticked." : "There is nothing to release.");
            return "redirect:/release";
        }
        return longWork.begin(
                "Release of " + released.size() + (released.size() == 1 ? " thing" : " things"),
                by,
                "/release",
                flash,
                progress -> released(released, chosen, ticked.stopped(), fingerprint, by.getName(), progress));
    }

    private Work.Outcome released(
            Set<String> released,
            Set<String> ticked,
            Set<String> stopped,
            String fingerprint,
            String by,
            Progress progress) {
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
        releases.release(released, stopped, fingerprint, by, progress);
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
