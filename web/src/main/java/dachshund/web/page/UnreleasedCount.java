package dachshund.web.page;

import dachshund.office.definition.Definitions;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import org.springframework.stereotype.Component;
import org.springframework.web.servlet.HandlerInterceptor;
import org.springframework.web.servlet.ModelAndView;
import org.springframework.web.servlet.config.annotation.InterceptorRegistry;
import org.springframework.web.servlet.config.annotation.WebMvcConfigurer;

/** An edit draws a part of its page alone; the head of the page hears by a header how many changes are unreleased now. */
@Component
class UnreleasedCount implements HandlerInterceptor, WebMvcConfigurer {

    private static final String UNRELEASED = "X-Unreleased";

    private final Definitions definitions;

    UnreleasedCount(Definitions definitions) {
        this.definitions = definitions;
    }

    @Override
    public void addInterceptors(InterceptorRegistry registry) {
        registry.addInterceptor(this);
    }

    @Override
    public void postHandle(
            HttpServletRequest request, HttpServletResponse response, Object handler, ModelAndView page) {
        if (request.getHeader("HX-Request") != null && !request.getMethod().equals("GET")) {
            response.setHeader(UNRELEASED, Integer.toString(definitions.drafts().size()));
        }
    }
}
