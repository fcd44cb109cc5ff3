package dachshund.core.definition;

import dachshund.core.tag.TagInfo;
import java.time.Duration;
import java.util.List;
import java.util.Map;

/**
 * A source.
 *
 * @param link     id of its {@link dachshund.core.source.LinkKind}
 * @param settings by name; secrets encrypted
 * @param rate     how often values are wanted
 * @param tags     the tags taken from what it offers
 */
public record SourceDefinition(String id, String name, String description, String link, Map<String, String> settings,
                               Duration rate, List<TagInfo> tags) implements Definition {

    public SourceDefinition {
        settings = Map.copyOf(settings);
        tags = List.copyOf(tags);
    }

    @Override
    public Kind kind() {
        return Kind.SOURCE;
    }

    public SourceDefinition withTags(List<TagInfo> other) {
        return new SourceDefinition(id, name, description, link, settings, rate, other);
    }
}
