package dachshund.web.page;

import dachshund.web.people.ForAnybody;
import jakarta.servlet.RequestDispatcher;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import org.springframework.boot.web.servlet.error.ErrorController;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.RequestMapping;

/** What is shown where a request ended before any page could answer it. Asked for by somebody, it is no error. */
@Controller
class ErrorPage implements ErrorController {

    @ForAnybody
    @RequestMapping("/error")
    String show(HttpServletRequest request, HttpServletResponse response, Model model) {
        Object status = request.getAttribute(RequestDispatcher.ERROR_STATUS_CODE);
        response.setStatus(status == null ? HttpServletResponse.SC_NOT_FOUND : (Integer) status);
        model.addAttribute("status", response.getStatus());
        return "error";
    }
}
