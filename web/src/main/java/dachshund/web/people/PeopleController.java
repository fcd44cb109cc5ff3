package dachshund.web.people;

import dachshund.office.audit.Audit;
import dachshund.office.own.OwnDatabase;
import jakarta.servlet.http.HttpServletRequest;
import java.security.Principal;
import java.util.NoSuchElementException;
import java.util.Optional;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** Signing in, changing the own password, and the administrator's page of people. */
@Needs(Right.MANAGE_PEOPLE)
@Controller
class PeopleController {

    private final People people;
    private final Audit audit;
    private final OwnDatabase database;
    private final Sessions sessions;
    private final SignInThrottle throttle;

    PeopleController(People people, Audit audit, OwnDatabase database, Sessions sessions, SignInThrottle throttle) {
        this.people = people;
        this.sessions = sessions;
        this.throttle = throttle;
        this.audit = audit;
        this.database = database;
    }

    @ForAnybody
    @GetMapping("/sign-in")
    String signIn(@RequestParam(defaultValue = "") String to, Model model) {
        model.addAttribute("to", Security.ownPath(to));
        model.addAttribute("databaseAnswers", database.answers());
        return "people/sign-in";
    }

    @ForAnybody
    @GetMapping("/denied")
    String deniedPage() {
        return "page/denied";
    }

    @ForAnybody
    @PostMapping("/denied")
    String deniedChange() {
        return "page/denied";
    }

    @ForAnybody
    @GetMapping("/password")
    String passwordForm(@AuthenticationPrincipal SignedIn who, Model model) {
        model.addAttribute("mustChange", who.mustChange());
        return "people/password";
    }

    @ForAnybody
    @PostMapping("/password")
    String changePassword(
            @AuthenticationPrincipal SignedIn who,
            @RequestParam String present,
            @RequestParam String next,
            @RequestParam String again,
            HttpServletRequest request,
            Model model,
            RedirectAttributes flash) {
        String problem = "";
        // Whoever guesses at an open screen does not close the name for its owner's sign-in.
        String guarded = "the own password of " + who.getUsername();
        if (throttle.closed(guarded)) {
            problem = "Too many wrong passwords. Wait a minute, then try again.";
        } else if (!people.isPassword(who.getUsername(), present)) {
            throttle.failed(guarded);
            audit.note(who.getUsername(), "failed to change the own password", "from " + request.getRemoteAddr());
            problem = throttle.closed(guarded)
                    ? "Too many wrong passwords. Wait a minute, then try again."
                    : "This is not your present password.";
        } else if (next.equals(present)) {
            problem = "The new password is the same as the present one.";
        } else {
            problem = People.passwordProblem(next, again);
        }
        if (!problem.isEmpty()) {
            model.addAttribute("mustChange", who.mustChange());
            model.addAttribute("problem", problem);
            return "people/password";
        }
        people.change(who.getUsername(), next);
        who.changed();
        throttle.succeeded(guarded);
        sessions.endAll(who.getUsername(), request.getSession().getId(), Sessions.Why.NEW_PASSWORD);
        flash.addFlashAttribute(
                "said", "Your password is changed. Wherever else you were signed in, you are not any more.");
        return "redirect:/plant";
    }

    @Needs(Right.MANAGE_PEOPLE)
    @GetMapping("/people")
    String list(Model model) {
        model.addAttribute("people", people.all());
        model.addAttribute("roles", Role.values());
        model.addAttribute("signedIn", sessions.all());
        return "people/people";
    }

    @PostMapping("/people")
    String add(@RequestParam String name, @RequestParam Role role, Principal by, Model model) {
        String problem = people.problem(name.strip());
        if (problem.isEmpty()) {
            tell(name.strip(), people.invite(name.strip(), role, by.getName()), model);
        } else {
            model.addAttribute("problem", problem);
            model.addAttribute("typedName", name);
        }
        return list(model);
    }

    private static void tell(String name, String token, Model model) {
        model.addAttribute("invited", name);
        model.addAttribute("invitation", "/invitation?token=" + token);
        model.addAttribute("days", People.INVITATION.toDays());
    }

    @PostMapping("/people/{name}/invite")
    String invite(@PathVariable String name, Principal by, Model model) {
        if (people.find(name).isEmpty()) {
            throw new NoSuchElementException(name);
        }
        tell(name, people.invitation(name, by.getName()), model);
        sessions.endAll(name, "", Sessions.Why.NEW_PASSWORD);
        return list(model);
    }

    @ForAnybody
    @GetMapping("/invitation")
    String invitation(@RequestParam(defaultValue = "") String token, Model model) {
        Optional<People.Person> invited = people.invited(token);
        model.addAttribute("person", invited.map(People.Person::name).orElse(""));
        model.addAttribute("late", invited.filter(person -> people.late(person)).isPresent());
        model.addAttribute("token", token);
        return "people/invitation";
    }

    @ForAnybody
    @PostMapping("/invitation")
    String take(@RequestParam String token, @RequestParam String next, @RequestParam String again, Model model) {
        Optional<People.Person> invited = people.invited(token).filter(person -> !people.late(person));
        if (invited.isEmpty()) {
            return invitation(token, model);
        }
        String problem = People.passwordProblem(next, again);
        if (problem.isEmpty() && people.take(invited.get(), token, next)) {
            return "redirect:/sign-in?chosen";
        }
        model.addAttribute("problem", problem);
        return invitation(token, model);
    }

    @PostMapping("/people/sessions/{key}/end")
    String end(@PathVariable String key, Principal by, RedirectAttributes flash) {
        String whose = sessions.end(key);
        if (!whose.isEmpty()) {
            audit.note(by.getName(), "ended a session", whose);
        }
        flash.addFlashAttribute(
                "said", whose.isEmpty() ? "It had ended already." : "The session of " + whose + " is ended.");
        return "redirect:/people";
    }

    @PostMapping("/people/{name}/remove")
    String remove(@PathVariable String name, Principal by, RedirectAttributes flash) {
        if (people.find(name).isEmpty()) {
            flash.addFlashAttribute("problem", "There is nobody named " + name + ".");
        } else if (name.equals(by.getName())) {
            flash.addFlashAttribute("problem", "You cannot remove yourself.");
        } else {
            people.remove(name, by.getName());
            sessions.endAll(name, "", Sessions.Why.REMOVED);
            flash.addFlashAttribute("said", name + " is removed.");
        }
        return "redirect:/people";
    }
}
