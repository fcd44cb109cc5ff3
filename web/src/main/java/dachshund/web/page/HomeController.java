package dachshund.web.page;

import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import org.springframework.stereotype.Controller;
import org.springframework.web.bind.annotation.GetMapping;

/** The way in: the first workspace. */
@Needs(Right.DESIGN)
@Controller
class HomeController {

    @GetMapping("/")
    String home() {
        return "redirect:/plant";
    }
}
