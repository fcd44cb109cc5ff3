package dachshund.core.definition;

import java.util.Map;

/**
 * A destination.
 *
 * @param store    id of its {@link dachshund.core.destination.StoreKind}
 * @param settings by name; secrets encrypted
 */
public record DestinationDefinition(
        String id, String name, String description, String store, Map<String, String> settings) implements Definition {

    public DestinationDefinition {
        settings = Map.copyOf(settings);
    }

    @Override
    public DestinationDefinition withSettings(Map<String, String> other) {
        return new DestinationDefinition(id, name, description, store, other);
    }
}
