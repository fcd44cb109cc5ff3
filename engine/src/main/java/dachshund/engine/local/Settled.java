package dachshund.engine.local;

/**
 * How far a lane has got in its destination's journal, and what became of its rows up to there. Kept on disk as one.
 *
 * @param journal  id of the journal that the position is of
 * @param position everything before it is settled
 * @param nth      running number of the last settled entry
 */
public record Settled(
        String journal,
        long position,
        long nth,
        long landed,
        long aside,
        long discarded,
        long damaged,
        long before,
        long lost) {

    public static final Settled NOTHING = new Settled("", 0, 0, 0, 0, 0, 0, 0, 0);

    /** How an entry was settled. */
    public enum As {
        LANDED,
        ASIDE,
        DISCARDED
    }

    /**
     * So many entries more; numbers that were passed over are of entries that the disk altered, and what has a number that was
     * settled before (an older copy came back) is not counted again.
     *
     * @param next   where the last of them ends
     * @param number running number of the last of them
     */
    public Settled and(long next, long number, int entries, As as) {
        long missing = Math.max(0, number - nth - entries);
        long counted = Math.max(0, Math.min(entries, number - nth));
        return new Settled(
                journal,
                next,
                Math.max(nth, number),
                landed + (as == As.LANDED ? counted : 0),
                aside + (as == As.ASIDE ? counted : 0),
                discarded + (as == As.DISCARDED ? counted : 0),
                damaged + missing,
                before,
                lost);
    }

    public Settled withLost(long more) {
        return new Settled(journal, position, nth, landed, aside, discarded, damaged, before, lost + more);
    }

    /** Begins to read another journal of the same lane. */
    public Settled in(String other, long from, long last, long moreBefore, long moreDamaged) {
        return new Settled(
                other, from, last, landed, aside, discarded, damaged + moreDamaged, before + moreBefore, lost);
    }
}
