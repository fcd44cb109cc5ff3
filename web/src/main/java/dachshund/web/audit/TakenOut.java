package dachshund.web.audit;

import dachshund.office.audit.Audit;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import org.springframework.stereotype.Component;
import org.springframework.web.servlet.HandlerInterceptor;
import org.springframework.web.servlet.config.annotation.InterceptorRegistry;
import org.springframework.web.servlet.config.annotation.WebMvcConfigurer;

/** Whatever leaves as a file stands in the audit, whichever page it is taken from. */
@Component
class TakenOut implements HandlerInterceptor, WebMvcConfigurer {

    private final Audit audit;

    TakenOut(Audit audit) {
        this.audit = audit;
    }

    @Override
    public void addInterceptors(InterceptorRegistry registry) {
        registry.addInterceptor(this);
    }

    @Override
    public void afterCompletion(
            HttpServletRequest request, HttpServletResponse response, Object handler, Exception broken) {
        String file = response.getHeader("Content-Disposition");
        if (file != null && file.startsWith("attachment") && request.getUserPrincipal() != null) {
            audit.note(
                    request.getUserPrincipal().getName(),
                    "took out a file",
                    request.getServletPath()
                            + (request.getQueryString() == null ? "" : "?" + request.getQueryString())
                            + (broken == null ? "" : ", which broke off"));
        }
    }
}
