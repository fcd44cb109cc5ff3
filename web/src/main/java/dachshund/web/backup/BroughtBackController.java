package dachshund.web.backup;

import dachshund.office.audit.Audit;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import java.security.Principal;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** The account of an installation that was brought back from a backup. */
@Needs(Right.RELEASE)
@Controller
class BroughtBackController {

    private final BroughtBack broughtBack;
    private final Audit audit;

    BroughtBackController(BroughtBack broughtBack, Audit audit) {
        this.broughtBack = broughtBack;
        this.audit = audit;
    }

    @GetMapping("/watch/brought-back")
    String account(Model model) {
        model.addAttribute("account", broughtBack.account().orElseThrow());
        return "backup/brought-back";
    }

    @PostMapping("/watch/brought-back/read")
    String read(Principal who, RedirectAttributes flash) {
        broughtBack.read(broughtBack.account().orElseThrow(), who.getName());
        audit.note(who.getName(), "read the account of a backup that was brought back", "");
        flash.addFlashAttribute("said", "It is not shown on every page any more.");
        return "redirect:/watch";
    }
}
