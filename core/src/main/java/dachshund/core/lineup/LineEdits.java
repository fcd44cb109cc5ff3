package dachshund.core.lineup;

import dachshund.core.definition.Repeatable;
import dachshund.core.tag.TagRef;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * What was edited by hand in a line of a line-up, told from what its original made it; and the line as its original makes it
 * now, with the edits that are to stay.
 */
public final class LineEdits<D extends Repeatable<D, M>, M> {

    private final LineUp<D, M> lineUp;
    private final D original;
    private final D line;
    private final D fresh;
    private final M base;

    /** @param line a design that follows the original */
    public LineEdits(LineUp<D, M> lineUp, D original, D line) {
        this.lineUp = lineUp;
        this.original = original;
        this.line = line;
        this.fresh = lineUp.derived(original, line);
        // Where it is not known what it was made once, all that differs may be somebody's work.
        this.base = line.follows().orElseThrow().made().orElseGet(fresh::made);
    }

    /** Whether its original would make another line of it today. */
    public boolean behind() {
        return !fresh.made().equals(base);
    }

    /** What was edited by hand, in the order of the design. */
    public List<LineUp.Edit> edits() {
        return lineUp.edits(base, line);
    }

    /**
     * The line as its original makes it now.
     *
     * @param dropped parts whose edits are given up; all others stay
     */
    public D brought(Set<String> dropped) {
        Set<String> kept = edits().stream()
                .map(LineUp.Edit::part)
                .filter(part -> !dropped.contains(part))
                .collect(Collectors.toSet());
        D made = fresh.withFollows(line.follows().map(follows -> follows.withMade(Optional.of(fresh.made()))));
        return lineUp.brought(made, line, kept);
    }

    /** Tags of the original in whose place the line has none, and nobody has said what becomes of them. */
    public List<TagRef> gaps() {
        return lineUp.gaps(original, line.follows().orElseThrow());
    }
}
