package dachshund.core.release;

import dachshund.core.definition.Definition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.layout.ColumnSource;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.transaction.TransactionDefinition;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;

/** What a release takes away from things that it does not change: a tag, a property. */
public final class LeftWithout {

    private final Plant before;
    private final Plant after;
    private final Map<String, Definition> now = new HashMap<>();
    private final Set<String> changed = new HashSet<>();
    private final Map<String, List<Left>> byThing = new HashMap<>();

    /**
     * One that loses something.
     *
     * @param user what goes on as it is, without it
     * @param what "the tag Outlet", "the property mass flow"
     */
    public record Left(Definition user, String what) {}

    private LeftWithout(Plant before, Plant after) {
        this.before = before;
        this.after = after;
    }

    /**
     * By the id of the thing whose change takes something away, who is left without what.
     *
     * @param was    everything before the release
     * @param is     everything after it
     * @param before what {@code was} means to recorders
     * @param after  what {@code is} means to them
     */
    public static Map<String, List<Left>> byThing(
            Collection<Definition> was, Collection<Definition> is, Plant before, Plant after) {
        LeftWithout left = new LeftWithout(before, after);
        Map<String, Definition> then = new HashMap<>();
        was.forEach(each -> then.put(each.id(), each));
        is.forEach(each -> left.now.put(each.id(), each));
        is.stream().filter(each -> !each.equals(then.get(each.id()))).forEach(each -> left.changed.add(each.id()));
        if (!left.changed.isEmpty()) {
            is.stream().filter(each -> !left.changed.contains(each.id())).forEach(left::look);
        }
        return left.byThing;
    }

    private void look(Definition user) {
        for (TagRef tag : user.kind().tagsOf(user)) {
            if (changed.contains(tag.source()) && after.tag(tag).isEmpty()) {
                before.tag(tag).map(TagInfo::name).ifPresent(name -> note(tag.source(), user, "the tag " + name));
            }
        }
        if (user instanceof RecorderDefinition recorder) {
            recorder.layout().columnsAndFields().forEach(column -> {
                if (column.from() instanceof ColumnSource.FromProperty from) {
                    property(
                            recorder,
                            from.equipment().isEmpty() ? recorder.equipment() : from.equipment(),
                            from.property());
                }
            });
        } else if (user instanceof TransactionDefinition transaction) {
            transaction.properties().forEach(each -> property(transaction, transaction.equipment(), each));
        }
    }

    private void property(Definition user, String equipment, String property) {
        if (after.property(equipment, property).isPresent()
                || before.property(equipment, property).isEmpty()) {
            return;
        }
        String what = "the property " + property;
        if (changed.contains(equipment)) {
            note(equipment, user, what);
        }
        if (now.get(equipment) instanceof EquipmentDefinition piece && changed.contains(piece.equipmentClass())) {
            note(piece.equipmentClass(), user, what);
        }
    }

    private void note(String thing, Definition user, String what) {
        List<Left> all = byThing.computeIfAbsent(thing, id -> new ArrayList<>());
        Left left = new Left(user, what);
        if (!all.contains(left)) {
            all.add(left);
        }
    }
}
