package dachshund.web.people;

import java.util.Arrays;
import java.util.Collection;
import org.springframework.security.core.GrantedAuthority;
import org.springframework.security.core.authority.SimpleGrantedAuthority;
import org.springframework.security.core.userdetails.UserDetails;

/** Somebody who signed in. */
final class SignedIn implements UserDetails {

    private final String name;
    private final String hash;
    private final Role role;
    private final boolean closed;
    private boolean mustChange;

    /** @param closed whether the name is closed after too many wrong passwords */
    SignedIn(People.WithHash found, boolean closed) {
        this.closed = closed;
        this.name = found.person().name();
        this.hash = found.hash();
        this.role = found.person().role();
        this.mustChange = found.person().mustChange();
    }

    boolean mustChange() {
        return mustChange;
    }

    void changed() {
        mustChange = false;
    }

    @Override
    public Collection<? extends GrantedAuthority> getAuthorities() {
        return Arrays.stream(Role.values())
                .filter(each -> each.compareTo(role) <= 0)
                .map(each -> new SimpleGrantedAuthority("ROLE_" + each.name()))
                .toList();
    }

    @Override
    public boolean isAccountNonLocked() {
        return !closed;
    }

    @Override
    public String getPassword() {
        return hash;
    }

    @Override
    public String getUsername() {
        return name;
    }
}
