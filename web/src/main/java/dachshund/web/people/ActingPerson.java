package dachshund.web.people;

import dachshund.office.person.Acting;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.stereotype.Component;
import org.springframework.web.context.request.RequestContextHolder;
import org.springframework.web.context.request.ServletRequestAttributes;

/** The person whose request is answered on this thread. */
@Component
class ActingPerson implements Acting {

    private static final String PAGE = "X-Page";

    @Override
    public String who() {
        Authentication who = SecurityContextHolder.getContext().getAuthentication();
        return who == null ? "dachshund" : who.getName();
    }

    @Override
    public String page() {
        String page = RequestContextHolder.getRequestAttributes() instanceof ServletRequestAttributes request
                ? request.getRequest().getHeader(PAGE)
                : null;
        return page == null ? "" : page;
    }
}
