package dachshund.engine.lane;

/**
 * What became of the rows that a lane was offered, since ever, also across restarts:
 * offered = refused + lost + landed + set aside + discarded + damaged + before + waiting.
 *
 * @param offered   counted before anything could fail
 * @param refused   not taken, because the journal was full
 * @param lost      taken, but gone with the unforced bytes of a power cut, or with a lost journal
 * @param landed    committed in the destination
 * @param aside     refused by the destination for their content, and kept
 * @param discarded by a person
 * @param damaged   altered on the local disk, found by the gap in the running numbers
 * @param before    settled one way or the other before the local store was lost
 * @param waiting   on disk: on their way, or held
 */
public record Account(
        long offered,
        long refused,
        long lost,
        long landed,
        long aside,
        long discarded,
        long damaged,
        long before,
        long waiting) {

    /** What the sum lacks: rows that are being taken at this instant; 0 when nothing moves. */
    public long difference() {
        return offered - refused - lost - landed - aside - discarded - damaged - before - waiting;
    }
}
