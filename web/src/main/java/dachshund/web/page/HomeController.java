package dachshund.web.page;

import org.springframework.stereotype.Controller;
import org.springframework.web.bind.annotation.GetMapping;

/** The way in: the first workspace. */
@Controller
class HomeController {

    @GetMapping("/")
    String home() {
        return "redirect:/plant";
    }
}
