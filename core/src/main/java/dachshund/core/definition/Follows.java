package dachshund.core.definition;

import dachshund.core.layout.Layout;
import dachshund.core.tag.TagRef;
import dachshund.core.when.Condition;
import dachshund.core.when.Confirmation;
import dachshund.core.when.When;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * How a recorder of a line-up differs from its original, beside its name, equipment and tables. A tag of the original that
 * stands in none of these lists is a gap: the line reads nothing in its place, and is not released, until a person has said
 * what becomes of it.
 *
 * @param original  id of the recorder it follows
 * @param tags      which tag of its own stands for which of the original
 * @param constants texts of constant columns, by column name
 * @param rate      its own rate, where the original writes at one
 * @param shared    tags of the original that somebody said this line reads too
 * @param leftOut   tags of the original that this line has not, and whose columns somebody said it does without
 * @param names     what the original's tables and rows call its machine, and what this line's call its own
 * @param made      what the original made it when it was last brought along; empty where that was not kept
 */
public record Follows(
        String original,
        List<Swap> tags,
        Map<String, String> constants,
        Optional<Duration> rate,
        List<TagRef> shared,
        List<TagRef> leftOut,
        Map<String, String> names,
        Optional<Made> made) {

    /** One tag for another. */
    public record Swap(TagRef from, TagRef to) {}

    /**
     * What the original made of a line; what a person changed by hand since shows beside it.
     *
     * @param wheres under no table: a line's tables are its own
     */
    public record Made(
            List<When> whens,
            Optional<Condition> gate,
            Layout layout,
            List<RecorderDefinition.Where> wheres,
            Optional<Confirmation> confirms) {

        public static Made of(RecorderDefinition recorder) {
            return new Made(
                    recorder.whens(),
                    recorder.gate(),
                    recorder.layout(),
                    recorder.wheres().stream().map(where -> where.withTable("")).toList(),
                    recorder.confirms());
        }
    }

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

    public Follows withChoices(List<TagRef> nowShared, List<TagRef> nowLeftOut) {
        return new Follows(original, tags, constants, rate, nowShared, nowLeftOut, names, made);
    }

    public Follows withNames(Map<String, String> other) {
        return new Follows(original, tags, constants, rate, shared, leftOut, other, made);
    }

    public Follows withMade(Optional<Made> other) {
        return new Follows(original, tags, constants, rate, shared, leftOut, names, other);
    }
}
