package dachshund.core.tag;

/**
 * Which tag: the id of its source and its address there. The address is the source's own, stable over reconnects; for
 * OPC UA it is the node id with the namespace URI, never its index.
 */
public record TagRef(String source, String address) {

    /** Stands for a source where there is no tag yet. No source has this id. */
    private static final String NONE = "none";

    /** Stands for the source of a tag that a machine lacks, where no tag may as well be meant. No source has this id. */
    private static final String LACKING = "lacking";

    public TagRef {
        if (source.isBlank() || address.isBlank()) {
            throw new IllegalArgumentException("A tag needs a source and an address.");
        }
    }

    /** Nothing, where another machine has this tag: a gap that has no value and is to be filled before a release. */
    public static TagRef gapFor(TagRef another) {
        return new TagRef(NONE, another.address());
    }

    /** The same, told from a place that is to have no tag. */
    public static TagRef lacking(TagRef another) {
        return new TagRef(LACKING, another.address());
    }

    /** Whether no tag stands here yet. */
    public boolean isGap() {
        return source.equals(NONE) || isLacking();
    }

    /** Whether another machine has a tag here, and this one lacks it. */
    public boolean isLacking() {
        return source.equals(LACKING);
    }
}
