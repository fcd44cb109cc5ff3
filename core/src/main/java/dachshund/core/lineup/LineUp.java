package dachshund.core.lineup;

import dachshund.core.definition.Follows;
import dachshund.core.definition.Repeatable;
import dachshund.core.tag.TagRef;
import dachshund.core.when.When;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.UnaryOperator;

/**
 * One design rolled out over machines: what a line that follows it looks like. Each kind of design that can be repeated has
 * one.
 *
 * @param <D> the kind of design
 * @param <M> what a line has from its original
 */
public abstract class LineUp<D extends Repeatable<D, M>, M> {

    private final Class<D> type;

    LineUp(Class<D> type) {
        this.type = type;
    }

    public final Class<D> type() {
        return type;
    }

    /**
     * A part of a line that differs from what its original had made it.
     *
     * @param part  tells it from the line's others
     * @param words the part, for a person
     */
    public record Edit(String part, String words) {}

    /**
     * The line as its original makes it now. Its id, name, description, equipment and tables stay its own. Where it has no
     * tag for one of the original's, it has a gap: nothing is read or written that is the original's own unless somebody said so.
     *
     * @param line a design with {@link Repeatable#follows}
     */
    public abstract D derived(D original, D line);

    /** A line before its original has made anything of it. Tables are named by the ids of their destinations. */
    abstract D begun(D original, String id, String name, String equipment, Map<String, String> tables);

    /**
     * A new line that somebody typed.
     *
     * @param table of all its rows; empty for tables named after it
     */
    public final D begun(D original, String id, String name, String equipment, String table, Follows<M> follows) {
        D begun = begun(original, id, name, equipment, Map.of());
        D line = made(original, begun.withFollows(Optional.of(follows)));
        return table.isEmpty() ? line : withTable(line, table);
    }

    /** Constants of a design, by the name of their column or step: what lines may set otherwise. */
    public abstract Map<String, String> constants(D design);

    /** The tables that are a line's own, by the ids of their destinations; empty where lines have none of their own. */
    public abstract Map<String, String> tables(D design);

    /** With one name for all of them. */
    public abstract D withTable(D design, String table);

    /** Whether lines have tables of their own. */
    public abstract boolean ownTables();

    /** Names of the properties of its own equipment that it uses as such. */
    abstract Set<String> properties(D design);

    /** Machines that it names beside its equipment. */
    public abstract Collection<String> machines(D design);

    /** What was edited by hand since its original had made it so, in the order of the design. */
    abstract List<Edit> edits(M made, D line);

    /**
     * @param fresh as its original makes it now
     * @param kept  parts of the line that stay as they are
     */
    abstract D brought(D fresh, D line, Set<String> kept);

    /** A new line as its original makes it, which is kept with it: what is edited by hand afterwards shows beside it. */
    public final D made(D original, D line) {
        D made = derived(original, line);
        return made.withFollows(made.follows().map(follows -> follows.withMade(Optional.of(made.made()))));
    }

    /** Tags of the original for which the line has none, and of which nobody has said what becomes of them. */
    public final List<TagRef> gaps(D original, Follows<M> follows) {
        List<TagRef> has = new ArrayList<>(follows.shared());
        has.addAll(follows.leftOut());
        follows.tags().forEach(swap -> has.add(swap.from()));
        return original.everyTag().stream().filter(tag -> !has.contains(tag)).toList();
    }

    /**
     * What a line has in the place of its original's tags.
     *
     * @param after what it has in the place of a transaction after which its original is done
     */
    static When.Swap swap(Follows<?> follows, UnaryOperator<String> after, UnaryOperator<String> words) {
        Map<TagRef, TagRef> swaps = new HashMap<>();
        follows.shared().forEach(tag -> swaps.put(tag, tag));
        follows.tags().forEach(swap -> swaps.put(swap.from(), swap.to()));
        return new When.Swap(
                tag -> swaps.getOrDefault(tag, TagRef.gapFor(tag)), follows.leftOut(), follows.rate(), after, words);
    }
}
