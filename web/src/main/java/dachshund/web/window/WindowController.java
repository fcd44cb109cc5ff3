package dachshund.web.window;

import dachshund.core.window.WindowProblem;
import dachshund.office.window.Windows;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;

/** What is typed into a field for a window comes to, while it is typed. */
@Needs(Right.SEE)
@Controller
class WindowController {

    private final Windows windows;

    WindowController(Windows windows) {
        this.windows = windows;
    }

    @GetMapping("/window")
    String span(
            @RequestParam(defaultValue = "") String window,
            @RequestParam(defaultValue = "") String empty,
            Model model) {
        if (window.isBlank() && !empty.isEmpty()) {
            model.addAttribute("empty", empty);
            return "window/field :: told";
        }
        try {
            model.addAttribute("span", windows.span(window));
        } catch (WindowProblem problem) {
            model.addAttribute("windowProblem", problem.getMessage());
            model.addAttribute("before", window.substring(0, problem.from()));
            model.addAttribute("here", window.substring(problem.from(), problem.to()));
            model.addAttribute("after", window.substring(problem.to()));
        }
        return "window/field :: told";
    }
}
