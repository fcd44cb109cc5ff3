package dachshund.web.page;

import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.people.RightsHeld;
import org.springframework.stereotype.Controller;
import org.springframework.web.bind.annotation.GetMapping;

/** The way in: to where somebody's work begins. Who designs begins at the plant; who looks, at what was recorded. */
@Needs(Right.DESIGN)
@Controller
class HomeController {

    @GetMapping("/")
    String home() {
        return RightsHeld.has(Right.DESIGN) || RightsHeld.has(Right.TYPE) ? "redirect:/plant" : "redirect:/review";
    }
}
