package dachshund.web.people;

import dachshund.web.audit.Audit;
import dachshund.web.setup.OwnDatabase;
import java.security.Principal;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** Signing in, changing the own password, and the administrator's page of people. */
@Controller
class PeopleController {

    private final People people;
    private final Audit audit;
    private final OwnDatabase database;

    PeopleController(People people, Audit audit, OwnDatabase database) {
        this.people = people;
        this.audit = audit;
        this.database = database;
    }

    @GetMapping("/sign-in")
    String signIn(Model model) {
        model.addAttribute("databaseAnswers", database.answers());
        return "people/sign-in";
    }

    @GetMapping("/denied")
    String deniedPage() {
        return "page/denied";
    }

    @PostMapping("/denied")
    String deniedChange() {
        return "page/denied";
    }

    @GetMapping("/password")
    String passwordForm(@AuthenticationPrincipal SignedIn who, Model model) {
        model.addAttribute("mustChange", who.mustChange());
        return "people/password";
    }

    @PostMapping("/password")
    String changePassword(
            @AuthenticationPrincipal SignedIn who,
            @RequestParam String present,
            @RequestParam String next,
            @RequestParam String again,
            Model model,
            RedirectAttributes flash) {
        String problem = "";
        if (!people.isPassword(who.getUsername(), present)) {
            problem = "This is not your present password.";
        } else if (next.length() < People.SHORTEST_PASSWORD) {
            problem = "A password has at least " + People.SHORTEST_PASSWORD + " characters.";
        } else if (next.length() > 72) {
            problem = "A password has at most 72 characters.";
        } else if (next.equals(present)) {
            problem = "The new password is the same as the present one.";
        } else if (!next.equals(again)) {
            problem = "The two new passwords are not the same.";
        }
        if (!problem.isEmpty()) {
            model.addAttribute("mustChange", who.mustChange());
            model.addAttribute("problem", problem);
            return "people/password";
        }
        people.change(who.getUsername(), next);
        who.changed();
        flash.addFlashAttribute("said", "Your password is changed.");
        return "redirect:/plant";
    }

    @GetMapping("/people")
    String list(Model model) {
        model.addAttribute("people", people.all());
        model.addAttribute("roles", Role.values());
        model.addAttribute("audit", audit.newest(40));
        return "people/people";
    }

    @PostMapping("/people")
    String add(@RequestParam String name, @RequestParam Role role, Principal by, Model model) {
        String problem = people.problem(name.strip());
        if (problem.isEmpty()) {
            String once = People.oneTimePassword();
            people.add(name.strip(), once, role, true, by.getName());
            model.addAttribute(
                    "oneTime",
                    name.strip() + " signs in with the one-time password " + once + ", which is shown only now.");
        } else {
            model.addAttribute("problem", problem);
            model.addAttribute("typedName", name);
        }
        return list(model);
    }

    @PostMapping("/people/{name}/renew")
    String renew(@PathVariable String name, Principal by, Model model) {
        model.addAttribute(
                "oneTime",
                name + " signs in with the one-time password " + people.renew(name, by.getName())
                        + ", which is shown only now.");
        return list(model);
    }

    @PostMapping("/people/{name}/remove")
    String remove(@PathVariable String name, Principal by, RedirectAttributes flash) {
        if (name.equals(by.getName())) {
            flash.addFlashAttribute("problem", "You cannot remove yourself.");
        } else {
            people.remove(name, by.getName());
            flash.addFlashAttribute("said", name + " is removed.");
        }
        return "redirect:/people";
    }
}
