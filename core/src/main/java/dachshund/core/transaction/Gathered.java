package dachshund.core.transaction;

import dachshund.core.tag.TagRef;
import dachshund.core.when.When;
import java.util.Optional;

/**
 * What a run has under a name: the value of a tag as it was when it fired, or what is computed of its history up to then.
 *
 * @param name     as steps call it
 * @param tag      a gap where whoever asks gives it, or a property stands in its place
 * @param bad      what happens where there is nothing that can be trusted
 * @param over     what is computed of its history; empty for its value
 * @param property of the transaction's equipment, by name; empty for none
 */
public record Gathered(String name, TagRef tag, WhenBad bad, Optional<Over> over, String property) {

    /** What the instant is called at which the time over which one is computed began, behind its own name. */
    public static final String SINCE = "_since";

    public Gathered {
        // Designs of before knew values alone.
        over = over == null ? Optional.empty() : over;
        property = property == null ? "" : property;
    }

    /** Of a tag. */
    public Gathered(String name, TagRef tag, WhenBad bad, Optional<Over> over) {
        this(name, tag, bad, over, "");
    }

    /** A property of the equipment, whatever it is mapped to there. */
    public static Gathered of(String name, String property) {
        return new Gathered(
                name, TagRef.gapFor(new TagRef("property", name)), WhenBad.FAIL, Optional.empty(), property);
    }

    /** One that no tag gives: whoever asks for the run does. */
    public static Gathered given(String name) {
        return new Gathered(name, TagRef.gapFor(new TagRef("given", name)), WhenBad.FAIL);
    }

    /** Whether whoever asks for the run has to give it. */
    public boolean isGiven() {
        return tag.isGap() && !tag.isLacking() && property.isEmpty();
    }

    /** Whether it is known which tag it is of: of a property, once it is known of which equipment. */
    public boolean hasTag() {
        return !tag.isGap();
    }

    /** The same of another machine; nothing where that does without the tag. */
    public Gathered swapped(When.Swap swap) {
        Optional<Over> own = over.map(each -> each.withMarker(each.marker().map(swap.tag())));
        if (!hasTag()) {
            return withOver(own);
        }
        if (swap.leftOut().contains(tag)) {
            return new Gathered(name, given(name).tag(), WhenBad.NOTHING, Optional.empty(), property);
        }
        TagRef of = swap.tag().apply(tag);
        return withTag(of.isGap() ? TagRef.lacking(of) : of).withOver(own);
    }

    public Gathered withTag(TagRef other) {
        return new Gathered(name, other, bad, over, property);
    }

    public Gathered withOver(Optional<Over> other) {
        return new Gathered(name, tag, bad, other, property);
    }

    public Gathered called(String other, WhenBad nowBad) {
        return new Gathered(other, tag, nowBad, over, property);
    }

    /** A value. */
    public Gathered(String name, TagRef tag, WhenBad bad) {
        this(name, tag, bad, Optional.empty());
    }

    /** What happens where a value cannot be trusted. */
    public enum WhenBad {
        FAIL("the run fails"),
        NOTHING("it is nothing"),
        LAST_GOOD("the last good value counts");

        private final String words;

        WhenBad(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }
    }
}
