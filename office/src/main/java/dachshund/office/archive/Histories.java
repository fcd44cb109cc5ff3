package dachshund.office.archive;

import dachshund.core.aggregate.Fold;
import dachshund.core.aggregate.Folding;
import dachshund.core.aggregate.Method;
import dachshund.core.aggregate.Outline;
import dachshund.core.aggregate.Samples;
import dachshund.core.archive.ArchiveStore;
import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.archive.BlockCodec;
import dachshund.core.archive.Column;
import dachshund.core.archive.Marks;
import dachshund.core.archive.Series;
import dachshund.core.archive.TagKey;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.time.OpcUaTime;
import dachshund.engine.Engine;
import dachshund.office.archive.BlockTable.Kept;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.springframework.stereotype.Component;

/**
 * The history of tags, as it is in the archive and on its way there, for whoever asks: pages, trends, queries. Reading takes
 * no lock and no connection of whoever records.
 */
@Component
public class Histories {

    /** So many values are in memory at once. */
    public static final int AT_ONCE = 1_000_000;

    private final BlockTable table;
    private final Engine engine;

    /**
     * What is known of a tag over a time.
     *
     * @param series  its values, with the last one before it, which holds at its beginning
     * @param damaged blocks that could not be read: they were altered on disk, and their values are missing
     */
    public record History(Series series, int damaged) {

        /** How many values lie in a half-open time, gaps among them. */
        public int count(Instant from, Instant to) {
            return series.before(OpcUaTime.toTicks(to)) - series.before(OpcUaTime.toTicks(from));
        }

        /**
         * Some of the values of a half-open time, oldest first; gaps are values that are bad and say why.
         *
         * @param skip so many of the newest are passed over
         */
        public List<TagValue> newest(Instant from, Instant to, int skip, int most) {
            int first = series.before(OpcUaTime.toTicks(from));
            int end = Math.max(first, series.before(OpcUaTime.toTicks(to)) - skip);
            List<TagValue> all = new ArrayList<>();
            for (int i = Math.max(first, end - most); i < end; i++) {
                Instant at = OpcUaTime.toInstant(series.time(i));
                all.add(new TagValue(series.value(i), quality(series.mark(i)), at, at));
            }
            return all;
        }
    }

    private static Quality quality(int mark) {
        Quality quality = Marks.quality(mark);
        return Marks.isFilled(mark)
                ? new Quality(
                        quality.grade(),
                        quality.code(),
                        (quality.words() + " filled in from its source's own history").strip())
                : quality;
    }

    Histories(BlockTable table, Engine engine) {
        this.table = table;
        this.engine = engine;
    }

    /**
     * What a plot needs of a time, however long: no extreme is lost, and the line breaks where nothing is known.
     *
     * @param points  intervals across the plot
     * @param stepped whether a value holds until the next one
     * @throws Problem with a sentence, where our own database does not answer
     */
    public Samples outline(TagRef tag, Instant from, Instant to, int points, boolean stepped) throws Problem {
        long begin = OpcUaTime.toTicks(from);
        long end = OpcUaTime.toTicks(to);
        long step = Math.max(1, (end - begin + points - 1) / points);
        // Parts of it are read after each other, so that a year takes no more memory than a day.
        long parts = 1 + count(tag, from, to) / AT_ONCE;
        long length = Math.max(1, (points + parts - 1) / parts) * step;
        long now = OpcUaTime.toTicks(engine.clock().now());
        List<Fold> folds = new ArrayList<>();
        for (long part = begin; part < end; part = Math.min(end, part + length)) {
            long partEnd = Math.min(end, part + length);
            Folding.fold(
                    read(tag, OpcUaTime.toInstant(part), OpcUaTime.toInstant(partEnd))
                            .series()
                            .samples(),
                    stepped ? Method.STEPPED : Method.SLOPED,
                    part,
                    partEnd,
                    step,
                    now,
                    folds::add);
        }
        return Outline.of(folds);
    }

    /** About how many values a tag has in a time, to eight hours at both ends. */
    public long count(TagRef tag, Instant from, Instant to) throws Problem {
        return table.count(
                TagKey.of(tag),
                ArchiveStore.spanOf(OpcUaTime.toTicks(from)),
                ArchiveStore.spanOf(OpcUaTime.toTicks(to)));
    }

    /**
     * Every value of a time. Whoever asks for a long one looks first how many there are: all of them are in memory.
     *
     * @param from inclusive
     * @param to   exclusive
     * @throws Problem with a sentence, where our own database does not answer
     */
    public History read(TagRef tag, Instant from, Instant to) throws Problem {
        long key = TagKey.of(tag);
        long first = ArchiveStore.spanOf(OpcUaTime.toTicks(from));
        long last = ArchiveStore.spanOf(OpcUaTime.toTicks(to));
        // What is on its way is looked at first: it may be stored meanwhile, and is then read twice, never missed.
        List<Column> tail = engine.archive().tail(tag);
        List<Kept> blocks = new ArrayList<>();
        Optional<Long> before = table.spanBefore(key, first);
        if (before.isPresent()) {
            blocks.addAll(table.blocks(key, before.get(), before.get()));
        }
        blocks.addAll(table.blocks(key, first, last));
        List<Column> columns = new ArrayList<>();
        int damaged = 0;
        for (Kept block : blocks) {
            try {
                columns.add(BlockCodec.read(block.data()));
            } catch (BlockCodec.Damaged altered) {
                damaged++;
            }
        }
        columns.addAll(tail);
        return new History(Series.of(columns), damaged);
    }
}
