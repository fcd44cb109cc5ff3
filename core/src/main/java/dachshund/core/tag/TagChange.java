package dachshund.core.tag;

/** A new value of the tag at an address of one source. */
public record TagChange(String address, TagValue value) {}
