package dachshund.core.row;

import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import java.util.Optional;
import java.util.Set;

/**
 * The values a row is made of, in the order of {@link RowMaker#tags}.
 *
 * @param now      the latest value of each tag
 * @param lastGood the latest value of each that was not bad; {@link TagValue#NONE} where there was none
 * @param changed  the tags whose change made the recorder write; empty where something else did
 */
public record Snapshot(TagValue[] now, TagValue[] lastGood, Optional<Set<TagRef>> changed) {

    public static Snapshot of(TagValue... now) {
        return new Snapshot(now, now, Optional.empty());
    }
}
