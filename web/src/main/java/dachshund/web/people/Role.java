package dachshund.web.people;

import static dachshund.web.people.Right.DESIGN;
import static dachshund.web.people.Right.RELEASE;
import static dachshund.web.people.Right.SEE;
import static dachshund.web.people.Right.TYPE;
import static dachshund.web.people.Right.WRITE_PLANT;

import java.util.EnumSet;
import java.util.Set;

/** A set of rights with a name. */
public enum Role {
    VIEWER("Viewer", "looks", EnumSet.of(SEE)),
    OPERATOR("Operator", "looks, and types into kept tags", EnumSet.of(SEE, TYPE)),
    ENGINEER("Engineer", "designs and releases", EnumSet.of(SEE, TYPE, WRITE_PLANT, DESIGN, RELEASE)),
    ADMINISTRATOR("Administrator", "also manages people, keys and addresses", EnumSet.allOf(Right.class));

    private final String words;
    private final String may;
    private final Set<Right> rights;

    Role(String words, String may, Set<Right> rights) {
        this.words = words;
        this.may = may;
        this.rights = rights;
    }

    public String words() {
        return words;
    }

    /** What the role may do, in words. */
    public String may() {
        return may;
    }

    public Set<Right> rights() {
        return Set.copyOf(rights);
    }
}
