package dachshund.core.archive;

import dachshund.core.archive.Column.Sort;
import dachshund.core.tag.TagRef;
import java.util.ArrayList;
import java.util.List;

/** Where blocks of values are kept. Each call is one step: all of it, or nothing. */
public interface ArchiveStore {

    /** The store does not take or give it, in a sentence. */
    class Problem extends Exception {
        private static final long serialVersionUID = 1;

        public Problem(String sentence, Throwable cause) {
            super(sentence, cause);
        }
    }

    /** Blocks end where a span of so many ticks does: eight hours since 1601, in UTC. */
    long SPAN = 8L * 3600 * 10_000_000;

    /** In which span an instant lies. */
    static long spanOf(long time) {
        return Math.floorDiv(time, SPAN);
    }

    /**
     * Values of one tag within one span, of one sort.
     *
     * @param tag   its {@link TagKey}
     * @param first time of the first value, in 100 ns ticks since 1601
     * @param last  time of the last one
     * @param values how many they are, gaps not counted
     * @param data  as {@link BlockCodec} writes them
     */
    record Block(long tag, long span, long first, long last, int values, Sort sort, byte[] data) {

        private static final int MOST = 65_536;
        private static final int MOST_TEXT = 2 << 20;

        /** Blocks of values, each of what lies within one span; none of them larger than a database takes. */
        public static List<Block> of(long tag, Series series) {
            return columns(series).stream().map(column -> of(tag, column)).toList();
        }

        /** The same, before they are written. */
        public static List<Column> columns(Series series) {
            List<Column> columns = new ArrayList<>();
            int from = 0;
            while (from < series.size()) {
                long span = ArchiveStore.spanOf(series.time(from));
                boolean last = ArchiveStore.spanOf(series.time(series.size() - 1)) == span;
                int to = Math.min(from + MOST, last ? series.size() : series.before((span + 1) * SPAN));
                if (series.hasTexts()) {
                    long text = 0;
                    int fits = from;
                    while (fits < to && text < MOST_TEXT) {
                        text += series.letters(fits++);
                    }
                    to = fits;
                }
                columns.addAll(series.columns(from, to));
                from = to;
            }
            return columns;
        }

        /** A column of one sort whose values lie within one span. */
        public static Block of(long tag, Column column) {
            long first = column.time(0);
            int values = 0;
            for (int i = 0; i < column.size(); i++) {
                values += Marks.isGap(column.quality(i)) ? 0 : 1;
            }
            return new Block(
                    tag,
                    spanOf(first),
                    first,
                    column.time(column.size() - 1),
                    values,
                    column.sort(),
                    BlockCodec.write(column));
        }
    }

    /**
     * What became of values, added up: as many were offered as were kept, gave way to another of the same instant, were
     * passed over as the rule says, or were refused; what is offered and none of these is held in the journal.
     *
     * @param within passed over as the rule says
     */
    record Counts(long offered, long kept, long replaced, long within, long refused) {

        public static final Counts NONE = new Counts(0, 0, 0, 0, 0);

        public Counts plus(Counts more) {
            return new Counts(
                    offered + more.offered,
                    kept + more.kept,
                    replaced + more.replaced,
                    within + more.within,
                    refused + more.refused);
        }
    }

    /**
     * How far a lane of a journal is.
     *
     * @param journal id of the journal
     * @param lane    id of the rule
     * @param nth     running number of the last entry that is stored
     * @param run     of which run of the application it is
     * @param at      when it was written, in ticks
     * @param counts  of all its entries up to it
     */
    record Lane(String journal, String lane, long nth, long run, long at, Counts counts) {}

    /**
     * A tag, as the store is told of it.
     *
     * @param lasting for how long its values are kept
     */
    record Tag(long key, TagRef ref, String name, KeptFor lasting) {}

    List<Lane> lanes() throws Problem;

    /** Whether it would keep the blocks: it does, and takes that back at once. */
    void offer(List<Block> blocks, List<Tag> tags) throws Problem;

    /** Keeps blocks, and that their lanes are so far. */
    void store(List<Block> blocks, List<Lane> lanes, List<Tag> tags) throws Problem;
}
