package dachshund.web.people;

import java.util.Collection;
import java.util.List;
import org.springframework.security.core.GrantedAuthority;
import org.springframework.security.core.authority.SimpleGrantedAuthority;
import org.springframework.security.core.userdetails.UserDetails;

/** Somebody who signed in. */
final class SignedIn implements UserDetails {

    private final String name;
    private final String hash;
    private final Role role;
    private boolean mustChange;

    SignedIn(People.WithHash found) {
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
        return List.of(new SimpleGrantedAuthority("ROLE_" + role.name()));
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
