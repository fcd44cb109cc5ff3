package dachshund.engine.recorder;

import dachshund.core.destination.NamePattern;
import dachshund.core.layout.Layout;
import dachshund.core.row.Row;
import dachshund.core.row.RowFacts;
import dachshund.engine.recorder.RecorderRun.Target;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * The destinations that the rows of one Where name themselves. A row that names none goes where all would: nothing is lost by a wrong
 * name, and the name is said. Used by the recorder's thread; what is said may be read by any.
 */
final class TargetsByName {

    /** Names that are remembered, so that a name with the time in it does not fill the memory. */
    private static final int REMEMBERED = 100;

    private static final int SAID = 3;

    private final Target usual;
    private final NamePattern pattern;
    private final Map<String, Target> found = new HashMap<>();
    private final Set<String> unknown = new LinkedHashSet<>();
    private volatile String astray = "";

    TargetsByName(Target usual) {
        this.usual = usual;
        this.pattern = new NamePattern(usual.where().named());
    }

    Target of(Row row, Layout layout, RowFacts facts) {
        String name = pattern.of(row, layout, facts);
        Target known = found.get(name);
        if (known != null) {
            return known;
        }
        Optional<Target> named =
                unknown.contains(name) ? Optional.empty() : usual.byName().apply(name);
        if (named.isPresent()) {
            if (found.size() < REMEMBERED) {
                found.put(name, named.get());
            }
            return named.get();
        }
        if (unknown.size() < REMEMBERED && unknown.add(name)) {
            astray = sentence();
        }
        return usual;
    }

    private String sentence() {
        int more = unknown.size() - SAID;
        return "There is no destination named "
                + String.join(", ", unknown.stream().limit(SAID).toList())
                + (more > 0 ? " and " + more + (unknown.size() == REMEMBERED ? " or more" : "") + " others" : "")
                + "; such rows go to the usual one.";
    }

    /** Names that no destination has, in a sentence; empty while there were none. */
    String astray() {
        return astray;
    }
}
