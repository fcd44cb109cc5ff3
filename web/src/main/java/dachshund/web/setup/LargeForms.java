package dachshund.web.setup;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import jakarta.servlet.http.HttpSession;
import java.io.IOException;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.core.Ordered;
import org.springframework.core.annotation.Order;
import org.springframework.security.web.context.HttpSessionSecurityContextRepository;
import org.springframework.stereotype.Component;
import org.springframework.util.unit.DataSize;
import org.springframework.web.filter.OncePerRequestFilter;

/**
 * Large forms, such as a configuration, are read from people who signed in alone, and never more than is said here. Asked before
 * anything reads a form: what anybody may send must not take the memory that recording needs.
 */
@Component
@Order(Ordered.HIGHEST_PRECEDENCE)
class LargeForms extends OncePerRequestFilter {

    private static final long FROM_ANYBODY = 64 << 10;

    private final long form;
    private final long files;

    LargeForms(
            @Value("${server.tomcat.max-http-form-post-size}") DataSize form,
            @Value("${spring.servlet.multipart.max-request-size}") DataSize files) {
        this.form = form.toBytes();
        this.files = files.toBytes();
    }

    /** Beyond it the server would drop all that was sent, the token of the page too. */
    private long most(HttpServletRequest request) {
        String type = request.getContentType() == null ? "" : request.getContentType();
        return type.startsWith("multipart/") ? files : form;
    }

    @Override
    protected void doFilterInternal(HttpServletRequest request, HttpServletResponse response, FilterChain rest)
            throws ServletException, IOException {
        long length = request.getContentLengthLong();
        boolean unknown = length < 0 && request.getHeader("Transfer-Encoding") != null;
        if (length > most(request) || (unknown || length > FROM_ANYBODY) && !signedIn(request)) {
            response.sendError(HttpServletResponse.SC_REQUEST_ENTITY_TOO_LARGE);
            return;
        }
        rest.doFilter(request, response);
    }

    /** By a session; programs show a token, which is looked at before a body that is no form is read. */
    private static boolean signedIn(HttpServletRequest request) {
        HttpSession session = request.getSession(false);
        String type = request.getContentType() == null ? "" : request.getContentType();
        return request.getServletPath().startsWith("/api/") && type.startsWith("application/json")
                || session != null
                        && session.getAttribute(HttpSessionSecurityContextRepository.SPRING_SECURITY_CONTEXT_KEY)
                                != null;
    }
}
