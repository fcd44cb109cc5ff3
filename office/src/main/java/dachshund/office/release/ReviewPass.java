package dachshund.office.release;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DefinitionKind;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.office.reach.Reaching;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.stream.Collectors;

/** What one review needs for all things: each destination is opened once, and one that is away is asked once. */
public final class ReviewPass implements AutoCloseable {

    private final Plant plant;
    private final List<Definition> after;
    private final Reaching reaching;
    private final Map<String, RowStore> stores = new HashMap<>();
    private final Map<String, StoreProblem> away = new HashMap<>();
    private Map<String, List<Definition>> byName;
    private Map<List<String>, List<RecorderDefinition>> byPlace;

    ReviewPass(Plant plant, List<Definition> after, Reaching reaching) {
        this.plant = plant;
        this.after = after;
        this.reaching = reaching;
    }

    /** As it would be after the release. */
    public Plant plant() {
        return plant;
    }

    /** Everything that there would be after the release. */
    public List<Definition> after() {
        return after;
    }

    /** Those of the kind that would have the name, whatever its letters' case. */
    List<Definition> named(DefinitionKind<?> kind, String name) {
        if (byName == null) {
            byName = after.stream().collect(Collectors.groupingBy(each -> key(each.kind(), each.name())));
        }
        return byName.getOrDefault(key(kind, name), List.of());
    }

    /** Recorders that would write to this table or file. */
    List<RecorderDefinition> writing(RecorderDefinition.Where where) {
        if (byPlace == null) {
            byPlace = new HashMap<>();
            for (Definition each : after) {
                if (each instanceof RecorderDefinition recorder) {
                    recorder.wheres().forEach(theirs -> byPlace.computeIfAbsent(key(theirs), key -> new ArrayList<>())
                            .add(recorder));
                }
            }
        }
        return byPlace.getOrDefault(key(where), List.of());
    }

    private static String key(DefinitionKind<?> kind, String name) {
        return kind.id() + " " + name.toLowerCase(Locale.ROOT);
    }

    private static List<String> key(RecorderDefinition.Where where) {
        return List.of(
                where.destination(),
                where.database().toLowerCase(Locale.ROOT),
                where.table().toLowerCase(Locale.ROOT));
    }

    public RowStore store(DestinationDefinition destination) throws StoreProblem {
        if (away.containsKey(destination.id())) {
            throw away.get(destination.id());
        }
        return stores.computeIfAbsent(destination.id(), id -> reaching.look(destination));
    }

    public void away(DestinationDefinition destination, StoreProblem problem) {
        away.put(destination.id(), problem);
    }

    @Override
    public void close() {
        stores.values().forEach(RowStore::close);
    }
}
