package dachshund.core.definition;

import dachshund.core.tag.TagInfo;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * A source.
 *
 * @param link     id of its {@link dachshund.core.source.LinkKind}
 * @param settings by name; secrets encrypted
 * @param rate     how often values are wanted
 * @param tags     the tags taken from what it offers, or described
 * @param writing  whether its tags may be written at all; switched on by an administrator
 */
public record SourceDefinition(
        String id,
        String name,
        String description,
        String link,
        Map<String, String> settings,
        Duration rate,
        List<TagInfo> tags,
        boolean writing)
        implements Definition {

    public SourceDefinition {
        settings = Map.copyOf(settings);
        tags = List.copyOf(tags);
    }

    /** A source that is not written to. */
    public SourceDefinition(
            String id,
            String name,
            String description,
            String link,
            Map<String, String> settings,
            Duration rate,
            List<TagInfo> tags) {
        this(id, name, description, link, settings, rate, tags, false);
    }

    public Optional<TagInfo> tag(String address) {
        return tags.stream().filter(tag -> tag.address().equals(address)).findFirst();
    }

    public SourceDefinition withTags(List<TagInfo> other) {
        return new SourceDefinition(id, name, description, link, settings, rate, other, writing);
    }

    public SourceDefinition withWriting(boolean other) {
        return new SourceDefinition(id, name, description, link, settings, rate, tags, other);
    }

    @Override
    public SourceDefinition withSettings(Map<String, String> other) {
        return new SourceDefinition(id, name, description, link, other, rate, tags, writing);
    }
}
