package dachshund.office.release;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.Plant;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.office.reach.Reaching;
import java.util.HashMap;
import java.util.List;
import java.util.Map;

/** What one review needs for all things: each destination is opened once, and one that is away is asked once. */
public final class ReviewPass implements AutoCloseable {

    private final Plant plant;
    private final List<Definition> after;
    private final Reaching reaching;
    private final Map<String, RowStore> stores = new HashMap<>();
    private final Map<String, StoreProblem> away = new HashMap<>();

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
