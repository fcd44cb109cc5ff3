package dachshund.core.trend;

import dachshund.core.tag.TagRef;
import java.util.Map;

/** Where a band has its stretches from. */
public sealed interface BandSource {

    /** By their names in documents. */
    Map<String, Class<?>> DOCUMENTS = Map.of("shifts", OfShifts.class, "tag", OfTag.class, "query", OfQuery.class);

    /** The plant's shift calendar. */
    record OfShifts() implements BandSource {}

    /** The history of a tag: each value that it had, as long as it had it. A state, a lot, a product. */
    record OfTag(TagRef tag) implements BandSource {}

    /**
     * Each row of what a saved query gives.
     *
     * @param begins column of the time at which a stretch begins
     * @param ends   of that at which it ends, exclusive; one without an end goes on
     * @param called of its name
     */
    record OfQuery(String query, String begins, String ends, String called) implements BandSource {}
}
