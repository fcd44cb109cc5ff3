package dachshund.web.page;

import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.util.Map;
import java.util.NoSuchElementException;
import java.util.regex.Pattern;
import org.springframework.stereotype.Component;
import org.springframework.web.servlet.HandlerInterceptor;
import org.springframework.web.servlet.HandlerMapping;
import org.springframework.web.servlet.config.annotation.InterceptorRegistry;
import org.springframework.web.servlet.config.annotation.WebMvcConfigurer;

/**
 * What stands in a path for an id or a name has no braces and no control characters: nothing of ours is called so, and a
 * redirect would take what is in braces for a place to fill in.
 */
@Component
class PlainNames implements HandlerInterceptor, WebMvcConfigurer {

    private static final Pattern ODD = Pattern.compile("[{}\\p{Cntrl}]");

    @Override
    public void addInterceptors(InterceptorRegistry registry) {
        registry.addInterceptor(this);
    }

    @Override
    public boolean preHandle(HttpServletRequest request, HttpServletResponse response, Object handler) {
        if (request.getAttribute(HandlerMapping.URI_TEMPLATE_VARIABLES_ATTRIBUTE) instanceof Map<?, ?> names
                && names.values().stream()
                        .anyMatch(each -> ODD.matcher(String.valueOf(each)).find())) {
            throw new NoSuchElementException("An odd name");
        }
        return true;
    }
}
