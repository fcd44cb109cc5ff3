package dachshund.engine.lane;

import dachshund.core.row.Made;
import dachshund.core.row.Redesign;
import dachshund.engine.local.LocalStore.Decided;
import java.nio.charset.StandardCharsets;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;

/**
 * What a person has decided about the rows that a lane holds, up to one of them: given to another design, or discarded. It
 * begins at the first of them that has not landed, which is known once they were looked up, and noted: a delivery mark that
 * has moved on since tells of rows that were discarded nothing.
 */
final class Decision {

    /** Where it is not known yet at which row it begins. */
    private static final long NOT_YET = 0;

    private final long from;
    private final long upTo;
    private final Optional<LaneDesign> design;
    private final ZoneId zone;
    private final Map<Long, Redesign> ways = new ConcurrentHashMap<>();

    private Decision(long from, long upTo, Optional<LaneDesign> design, ZoneId zone) {
        this.from = from;
        this.upTo = upTo;
        this.design = design;
        this.zone = zone;
    }

    static Decision discarding(long upTo) {
        return new Decision(NOT_YET, upTo, Optional.empty(), ZoneOffset.UTC);
    }

    static Decision giving(long upTo, LaneDesign design, ZoneId zone) {
        return new Decision(NOT_YET, upTo, Optional.of(design), zone);
    }

    static Decision read(Decided kept) {
        Decision read = kept.design().isEmpty()
                ? discarding(kept.upTo())
                : giving(
                        kept.upTo(),
                        LaneDesign.read(kept.design().getBytes(StandardCharsets.UTF_8)),
                        ZoneId.of(kept.zone()));
        return read.from(kept.from());
    }

    /** The same, beginning at a row. */
    Decision from(long first) {
        return new Decision(first, upTo, design, zone);
    }

    /** Whether it is known at which row it begins. */
    boolean begun() {
        return from != NOT_YET;
    }

    Decided asKept() {
        return new Decided(
                from,
                upTo,
                design.map(to -> new String(to.asEntry().document(), StandardCharsets.UTF_8))
                        .orElse(""),
                zone.getId());
    }

    /** Whether rows are given to another design. */
    boolean gives() {
        return design.isPresent();
    }

    /** Whether an entry is discarded. */
    boolean discards(long nth) {
        return design.isEmpty() && nth >= from && nth <= upTo;
    }

    /** The row as it is to be written now. */
    Lane.Waiting about(Lane.Waiting row) {
        if (design.isEmpty()
                || row.nth() < from
                || row.nth() > upTo
                || design.get().key() == row.design().key()) {
            return row;
        }
        LaneDesign to = design.get();
        Made made = way(row.design(), to).of(row.row());
        return made instanceof Made.Whole whole
                ? row.as(to, place(row, to), whole.row())
                : row.notAs(((Made.Refused) made).reason());
    }

    private Redesign way(LaneDesign from, LaneDesign to) {
        return ways.computeIfAbsent(
                from.key(),
                key -> new Redesign(from.recorder().layout(), to.recorder().layout(), zone));
    }

    /** A place that is made of the row's values is the one that was made then. */
    private static String place(Lane.Waiting row, LaneDesign to) {
        return to.where().place().dynamic() ? row.place() : to.place();
    }
}
