package dachshund.core.definition;

import dachshund.core.tag.TagRef;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * How a line of a line-up differs from its original, beside its name, equipment and tables. A tag of the original that
 * stands in none of these lists is a gap: the line reads nothing in its place, and is not released, until a person has said
 * what becomes of it.
 *
 * @param original  id of the design it follows
 * @param tags      which tag of its own stands for which of the original
 * @param constants texts of constants, by the name of their column or step
 * @param rate      its own rate, where the original writes at one
 * @param shared    tags of the original that somebody said this line reads too
 * @param leftOut   tags of the original that this line has not, and whose columns somebody said it does without
 * @param names     what the original's tables and rows call its machine, and what this line's call its own
 * @param made      what the original made it when it was last brought along, beside which shows what a person changed by hand
 *                  since; empty where that was not kept
 * @param <M>       what a line of its kind has from its original
 */
public record Follows<M>(
        String original,
        List<Swap> tags,
        Map<String, String> constants,
        Optional<Duration> rate,
        List<TagRef> shared,
        List<TagRef> leftOut,
        Map<String, String> names,
        Optional<M> made) {

    /** One tag for another. */
    public record Swap(TagRef from, TagRef to) {}

    public Follows {
        tags = List.copyOf(tags);
        constants = Map.copyOf(constants);
        shared = List.copyOf(shared);
        leftOut = List.copyOf(leftOut);
        names = Map.copyOf(names);
    }

    /** With a tag for each of the original, or a gap. */
    public Follows(String original, List<Swap> tags, Map<String, String> constants, Optional<Duration> rate) {
        this(original, tags, constants, rate, List.of(), List.of(), Map.of(), Optional.empty());
    }

    /** A sentence on a place for which a line-up found no tag of the machine. */
    public static String gap(String place) {
        return place + " has no tag of this machine. Choose one, or say in the line-up what becomes of it.";
    }

    public Follows<M> withChoices(List<TagRef> nowShared, List<TagRef> nowLeftOut) {
        return new Follows<>(original, tags, constants, rate, nowShared, nowLeftOut, names, made);
    }

    public Follows<M> withNames(Map<String, String> other) {
        return new Follows<>(original, tags, constants, rate, shared, leftOut, other, made);
    }

    public Follows<M> withMade(Optional<M> other) {
        return new Follows<>(original, tags, constants, rate, shared, leftOut, names, other);
    }
}
