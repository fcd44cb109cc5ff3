package dachshund.web.work;

import dachshund.office.work.Work;
import dachshund.office.work.Works;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.people.RightsHeld;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.security.Principal;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;
import org.springframework.web.servlet.support.RequestContextUtils;

/** Long work: what goes on, how far it is, what came of it; ended where that is safe. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/work")
class WorkController {

    private final Works works;

    WorkController(Works works) {
        this.works = works;
    }

    @GetMapping
    String list(Model model) {
        model.addAttribute("all", works.newest());
        return "work/works";
    }

    /** Where its end comes before its page is there, who waits for it goes on to what came of it, as they would have from here. */
    @GetMapping("/{id}")
    String one(@PathVariable String id, Principal by, Model model, RedirectAttributes flash) {
        Work work = works.find(id).orElseThrow();
        boolean news = !work.looked();
        boolean over = over(work, by);
        if (news && work.looked() && work.outcome().isPresent()) {
            return LongWork.next(work, flash);
        }
        LongWork.show(work, over, model);
        return "work/work";
    }

    /** How far it is, asked for again and again by its page; who has waited for its end goes on with what came of it. */
    @GetMapping("/{id}/progress")
    String progress(
            @PathVariable String id,
            Principal by,
            Model model,
            HttpServletRequest request,
            HttpServletResponse response) {
        Work work = works.find(id).orElseThrow();
        LongWork.show(work, over(work, by), model);
        if (work.looked() && work.outcome().isPresent()) {
            Work.Outcome outcome = work.outcome().get();
            RequestContextUtils.getOutputFlashMap(request).put(outcome.went() ? "said" : "problem", outcome.sentence());
            RequestContextUtils.saveOutputFlashMap(outcome.page(), request, response);
            model.addAttribute("goesOn", outcome.page());
        }
        return "work/work :: progress";
    }

    /** Whether it is over, asked once for all that a page says: who began it then sees its end, and only then. */
    private static boolean over(Work work, Principal by) {
        boolean over = work.state().over();
        if (over && work.by().equals(by.getName())) {
            work.look();
        }
        return over;
    }

    @PostMapping("/{id}/end")
    String end(@PathVariable String id, Principal by, RedirectAttributes flash) {
        Work work = works.find(id).orElseThrow();
        if (work.by().equals(by.getName()) || RightsHeld.has(Right.RELEASE)) {
            work.end();
        } else {
            flash.addFlashAttribute(
                    "problem", "It was begun by " + work.by() + ", who alone can end it, or whoever may release.");
        }
        return "redirect:/work/" + id;
    }
}
