package dachshund.core.layout;

import dachshund.core.tag.TagRef;

/**
 * One tag of a layout that writes a row per tag, with the facts that stand in its rows.
 *
 * @param name      what the rows call it
 * @param equipment name of the equipment it belongs to; may be empty
 * @param unit      engineering unit; may be empty
 */
public record Line(TagRef tag, String name, String equipment, String unit) {}
