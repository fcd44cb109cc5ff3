package dachshund.web.people;

import dachshund.office.definition.Standing;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.util.Optional;
import org.springframework.core.annotation.AnnotationUtils;
import org.springframework.security.access.AccessDeniedException;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.stereotype.Component;
import org.springframework.web.method.HandlerMethod;
import org.springframework.web.servlet.HandlerInterceptor;
import org.springframework.web.servlet.config.annotation.InterceptorRegistry;
import org.springframework.web.servlet.config.annotation.WebMvcConfigurer;

/** Holds {@link Needs} at every method that a request leads to. The API has scopes of its own, and is entered with a token. */
@Component
public class RightsHeld implements HandlerInterceptor, WebMvcConfigurer {

    private static final String OWN = "dachshund.";

    @Override
    public void addInterceptors(InterceptorRegistry registry) {
        registry.addInterceptor(this).excludePathPatterns("/api/**");
    }

    @Override
    public boolean preHandle(HttpServletRequest request, HttpServletResponse response, Object handler) {
        if (!(handler instanceof HandlerMethod method)
                || !method.getBeanType().getName().startsWith(OWN)
                || method.hasMethodAnnotation(ForAnybody.class)) {
            return true;
        }
        Right needed = needed(method, request.getMethod())
                .orElseThrow(() -> new AccessDeniedException("Nobody said who may do this."));
        demand(needed);
        return true;
    }

    /** Whether who asks has the right. */
    public static boolean has(Right right) {
        Authentication who = SecurityContextHolder.getContext().getAuthentication();
        return who != null
                && who.getAuthorities().stream().anyMatch(each -> right.name().equals(each.getAuthority()));
    }

    /** Which of what is designed is for who asks. */
    public static Standing standing() {
        return has(Right.DESIGN) ? Standing.DRAFTED : Standing.RELEASED;
    }

    /** @throws AccessDeniedException where who asks has not the right */
    public static void demand(Right right) {
        if (!has(right)) {
            throw new AccessDeniedException("This needs the right: " + right.words() + ".");
        }
    }

    private static Optional<Right> needed(HandlerMethod method, String verb) {
        Needs own = method.getMethodAnnotation(Needs.class);
        if (own != null) {
            return Optional.of(own.value());
        }
        Needs all = AnnotationUtils.findAnnotation(method.getBeanType(), Needs.class);
        if (all == null) {
            return Optional.empty();
        }
        return Optional.of(verb.equals("GET") || verb.equals("HEAD") ? Right.SEE : all.value());
    }
}
