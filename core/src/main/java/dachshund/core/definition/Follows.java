package dachshund.core.definition;

import dachshund.core.tag.TagRef;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * How a recorder of a line-up differs from its original, beside its name, equipment and tables.
 *
 * @param original  id of the recorder it follows
 * @param tags      which tag of its own stands for which of the original
 * @param constants texts of constant columns, by column name
 * @param rate      its own rate, where the original writes at one
 */
public record Follows(String original, List<Swap> tags, Map<String, String> constants, Optional<Duration> rate) {

    /** One tag for another. */
    public record Swap(TagRef from, TagRef to) {}

    public Follows {
        tags = List.copyOf(tags);
        constants = Map.copyOf(constants);
    }
}
