package dachshund.core.release;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DefinitionKind;
import dachshund.core.definition.Named;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Function;
import java.util.stream.Collectors;

/** Tells two states of the definitions apart, in sentences that a person reads before releasing. */
public final class Differences {

    private final Map<String, Definition> before;
    private final Map<String, Definition> after;

    private final Named named;

    private Differences(Map<String, Definition> before, Map<String, Definition> after) {
        this.before = before;
        this.after = after;
        this.named = new Named(before, after);
    }

    /** What changes from one set of definitions to another; things that are equal do not appear. */
    public static List<Difference> between(List<Definition> before, List<Definition> after) {
        return new Differences(byId(before), byId(after)).all();
    }

    private static Map<String, Definition> byId(List<Definition> definitions) {
        return definitions.stream().collect(Collectors.toMap(Definition::id, Function.identity()));
    }

    private List<Difference> all() {
        Set<String> ids = new TreeSet<>(before.keySet());
        ids.addAll(after.keySet());
        List<Difference> differences = new ArrayList<>();
        for (String id : ids) {
            Definition was = before.get(id);
            Definition is = after.get(id);
            if (was == null) {
                differences.add(
                        new Difference(Difference.Change.NEW, is, is.kind().introducing(is, named)));
            } else if (is == null) {
                differences.add(new Difference(
                        Difference.Change.REMOVED, was, was.kind().removing(was, named)));
            } else if (!was.equals(is)) {
                differences.add(
                        new Difference(Difference.Change.CHANGED, is, is.kind().changing(was, is, named)));
            }
        }
        differences.sort(Comparator.<Difference, DefinitionKind<?>>comparing(
                        d -> d.thing().kind())
                .thenComparing(d -> d.thing().name()));
        return differences;
    }
}
