package dachshund.web.people;

import java.time.Instant;
import java.util.Collection;
import org.springframework.security.core.GrantedAuthority;
import org.springframework.security.core.authority.SimpleGrantedAuthority;
import org.springframework.security.core.userdetails.UserDetails;

/** Somebody who signed in. Two with the same name are the same person. */
final class SignedIn implements UserDetails {

    private static final long serialVersionUID = 1;

    private final String name;
    private final String hash;
    private final Role role;
    private final boolean closed;
    private boolean mustChange;
    private String from = "";
    private Instant since = Instant.EPOCH;

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

    void came(String address, Instant at) {
        from = address;
        since = at;
    }

    /** The address of this sign-in. */
    String from() {
        return from;
    }

    /** When this sign-in was. */
    Instant since() {
        return since;
    }

    @Override
    public Collection<? extends GrantedAuthority> getAuthorities() {
        return role.rights().stream()
                .map(right -> new SimpleGrantedAuthority(right.name()))
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

    @Override
    public boolean equals(Object other) {
        return other instanceof SignedIn who && who.name.equals(name);
    }

    @Override
    public int hashCode() {
        return name.hashCode();
    }
}
