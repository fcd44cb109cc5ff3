package dachshund.core.tag;

/** A tag and a new value of it. */
public record TaggedValue(TagRef tag, TagValue value) {}
