package dachshund.web.definition;

import jakarta.servlet.http.HttpServletRequest;
import org.springframework.web.context.request.RequestContextHolder;
import org.springframework.web.context.request.ServletRequestAttributes;

/** The page in somebody's browser that a request comes from: each page that is loaded draws a name of its own. */
final class Window {

    private static final String HEADER = "X-Page";

    private Window() {}

    /** Empty where nobody knows. */
    static String ofRequest() {
        if (RequestContextHolder.getRequestAttributes() instanceof ServletRequestAttributes attributes) {
            HttpServletRequest request = attributes.getRequest();
            String page = request.getHeader(HEADER);
            return page == null ? "" : page;
        }
        return "";
    }
}
