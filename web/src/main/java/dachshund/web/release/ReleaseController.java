package dachshund.web.release;

import dachshund.core.definition.Definition;
import dachshund.core.release.Difference;
import dachshund.web.definition.Definitions;
import java.security.Principal;
import java.util.List;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** The release page: what differs, what follows, one button. */
@Controller
class ReleaseController {

    private static final int PAST = 20;

    private final Definitions definitions;
    private final ReleaseCheck check;

    ReleaseController(Definitions definitions, ReleaseCheck check) {
        this.definitions = definitions;
        this.check = check;
    }

    @GetMapping("/release")
    String show(Model model) {
        List<ReleaseCheck.Item> items = check.items();
        model.addAttribute("items", items);
        model.addAttribute("refused", items.stream().anyMatch(item -> !item.problems().isEmpty()));
        model.addAttribute("fingerprint", definitions.fingerprint());
        model.addAttribute("past", definitions.releases(PAST));
        return "release/release";
    }

    @PostMapping("/release")
    String release(@RequestParam String fingerprint, Principal by, RedirectAttributes flash) {
        if (!fingerprint.equals(definitions.fingerprint())) {
            flash.addFlashAttribute("problem", "The drafts have changed since you looked. Here is what would be released now.");
            return "redirect:/release";
        }
        List<ReleaseCheck.Item> items = check.items();
        if (items.isEmpty() || items.stream().anyMatch(item -> !item.problems().isEmpty())) {
            flash.addFlashAttribute("problem", items.isEmpty() ? "There is nothing to release." : "Nothing was released: some things cannot work yet, see below.");
            return "redirect:/release";
        }
        definitions.releaseAll(fingerprint, by.getName());
        flash.addFlashAttribute("said", "Release " + definitions.release() + " is live.");
        List<Definition> recorders = items.stream().map(ReleaseCheck.Item::difference).filter(each -> each.change() != Difference.Change.REMOVED)
                .map(Difference::thing).filter(thing -> thing.kind() == Definition.Kind.RECORDER).toList();
        return recorders.size() == 1 ? "redirect:/records/" + recorders.get(0).id() : "redirect:/watch";
    }
}
