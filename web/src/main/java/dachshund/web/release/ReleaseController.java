package dachshund.web.release;

import dachshund.core.definition.Definition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.release.Difference;
import dachshund.engine.Engine;
import dachshund.web.definition.Definitions;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import java.nio.charset.StandardCharsets;
import java.security.Principal;
import java.util.List;
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

    private final Definitions definitions;
    private final Engine engine;
    private final ReleaseCheck check;

    ReleaseController(Definitions definitions, Engine engine, ReleaseCheck check) {
        this.definitions = definitions;
        this.engine = engine;
        this.check = check;
    }

    @GetMapping("/release")
    String show(Model model) {
        List<ReleaseCheck.Item> items = check.items();
        model.addAttribute("items", items);
        model.addAttribute(
                "refused", items.stream().anyMatch(item -> !item.problems().isEmpty()));
        model.addAttribute("fingerprint", definitions.fingerprint());
        model.addAttribute("past", definitions.releases(PAST));
        return "release/release";
    }

    /** Drafts what an earlier release was; the review that follows is the same as ever. */
    @PostMapping("/release/{release}/roll-back")
    String rollBack(@PathVariable long release, Principal by, RedirectAttributes flash) {
        try {
            int differ = definitions.rollBack(release, by.getName());
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

    /** Throws away every draft. */
    @PostMapping("/release/discard")
    String discard(Principal by, RedirectAttributes flash) {
        int drafts = definitions.discardAll(by.getName());
        flash.addFlashAttribute("said", drafts + (drafts == 1 ? " draft is" : " drafts are") + " discarded.");
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
                .body(ConfigurationFile.write(definitions.live()).getBytes(StandardCharsets.UTF_8));
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
            ConfigurationFile.Taken taken = ConfigurationFile.read(text, definitions.drafted(), engine::sealed);
            taken.definitions().stream()
                    .map(engine::unusable)
                    .filter(problem -> !problem.isEmpty())
                    .findFirst()
                    .ifPresent(problem -> {
                        throw new IllegalArgumentException(problem);
                    });
            int differ = definitions.editAll(taken.definitions(), by.getName());
            flash.addFlashAttribute(
                    "said",
                    differ == 0
                            ? "Nothing in the file differs from what is here."
                            : differ + (differ == 1 ? " thing differs" : " things differ")
                                    + " and " + (differ == 1 ? "is" : "are") + " drafted now. Review and release."
                                    + (taken.secrets().isEmpty()
                                            ? ""
                                            : " Passwords do not travel; type them anew at: "
                                                    + String.join(", ", taken.secrets()) + "."));
            return "redirect:/release";
        } catch (IllegalArgumentException problem) {
            model.addAttribute("text", text);
            model.addAttribute("problem", problem.getMessage());
            return "release/import";
        }
    }

    @Needs(Right.RELEASE)
    @PostMapping("/release")
    String release(@RequestParam String fingerprint, Principal by, RedirectAttributes flash) {
        if (!fingerprint.equals(definitions.fingerprint())) {
            flash.addFlashAttribute(
                    "problem", "The drafts have changed since you looked. Here is what would be released now.");
            return "redirect:/release";
        }
        List<ReleaseCheck.Item> items = check.items();
        if (items.isEmpty() || items.stream().anyMatch(item -> !item.problems().isEmpty())) {
            flash.addFlashAttribute(
                    "problem",
                    items.isEmpty()
                            ? "There is nothing to release."
                            : "Nothing was released: some things cannot work yet, see below.");
            return "redirect:/release";
        }
        definitions.releaseAll(fingerprint, by.getName());
        flash.addFlashAttribute("said", "Release " + definitions.release() + " is live.");
        List<Definition> recorders = items.stream()
                .map(ReleaseCheck.Item::difference)
                .filter(each -> each.change() != Difference.Change.REMOVED)
                .map(Difference::thing)
                .filter(thing -> thing instanceof RecorderDefinition)
                .toList();
        return recorders.size() == 1 ? "redirect:/records/" + recorders.get(0).id() : "redirect:/watch";
    }
}
