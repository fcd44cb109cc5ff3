package dachshund.office.archive;

import dachshund.core.aggregate.Fold;
import dachshund.core.aggregate.Method;
import dachshund.core.aggregate.Outline;
import dachshund.core.aggregate.Samples;
import dachshund.core.aggregate.Trouble;
import dachshund.core.archive.ArchiveStore;
import dachshund.core.archive.ArchiveStore.Block;
import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.archive.BlockCodec;
import dachshund.core.archive.Column;
import dachshund.core.archive.Marks;
import dachshund.core.archive.Series;
import dachshund.core.archive.Summary.Unit;
import dachshund.core.archive.TagKey;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.time.OpcUaTime;
import dachshund.core.time.PlantClock;
import dachshund.engine.Engine;
import dachshund.office.archive.BlockTable.Head;
import dachshund.office.archive.BlockTable.Kept;
import dachshund.office.archive.KnownBlocks.Found;
import dachshund.office.archive.KnownBlocks.Readable;
import dachshund.office.archive.KnownBlocks.Wanted;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.Comparator;
import java.util.EnumSet;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Consumer;
import java.util.function.Function;
import org.springframework.beans.factory.annotation.Autowired;
import org.springframework.stereotype.Component;

/**
 * The history of tags, as it is in the archive and on its way there, for whoever asks: pages, trends, queries. Reading takes
 * no lock and no connection of whoever records.
 */
@Component
public class Histories {

    /** So many values are in memory at once. */
    public static final int AT_ONCE = 1_000_000;

    /** Of each interval of a plot, so that all of them come to the whole of it. */
    private static final Set<Fold.Part> WITH_AREA =
            Collections.unmodifiableSet(EnumSet.of(Fold.Part.EXTREMES, Fold.Part.AREA));

    /** Three weeks: of no more than these, summaries are read before it is known how many values there are. */
    private static final int FEW_SPANS = 63;

    private final BlockTable table;
    private final KnownBlocks known;
    private final PlantClock clock;
    private final Function<TagRef, List<Column>> onItsWay;

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
                all.add(value(series, i));
            }
            return all;
        }
    }

    /** The intervals are finer than what is kept of them. */
    private static final class OnlySummaries extends Problem {
        private static final long serialVersionUID = 1;

        OnlySummaries() {
            super(
                    "Of a part of this time only summaries of minutes are kept. Ask for intervals that begin and end with whole minutes.",
                    null);
        }
    }

    /** One of them, as it was kept. */
    public static TagValue value(Series series, int index) {
        Instant at = OpcUaTime.toInstant(series.time(index));
        return new TagValue(series.value(index), quality(series.mark(index)), at, at);
    }

    private static Quality quality(int mark) {
        Quality quality = Marks.quality(mark);
        String how = Marks.isFilled(mark)
                ? "filled in from its source's own history"
                : Marks.isByHand(mark) ? "entered by hand" : "";
        return how.isEmpty()
                ? quality
                : new Quality(quality.grade(), quality.code(), (quality.words() + " " + how).strip());
    }

    @Autowired
    Histories(BlockTable table, Engine engine) {
        this(table, engine.clock(), tag -> engine.archive().tail(tag));
    }

    /** @param onItsWay values of a tag that are not in the table yet */
    public Histories(BlockTable table, PlantClock clock, Function<TagRef, List<Column>> onItsWay) {
        this.table = table;
        this.known = new KnownBlocks(table);
        this.clock = clock;
        this.onItsWay = onItsWay;
    }

    /**
     * What a plot needs of a time, however long: no extreme is lost, and the line breaks where nothing is known.
     *
     * @param points  intervals across the plot, about
     * @param stepped whether a value holds until the next one
     * @throws Problem with a sentence, where our own database does not answer
     */
    public Samples outline(TagRef tag, Instant from, Instant to, int points, boolean stepped) throws Problem {
        List<Fold> folds = new ArrayList<>();
        fold(tag, from, to, points, stepped ? Method.STEPPED : Method.SLOPED, folds);
        return Outline.of(folds);
    }

    /**
     * An outline, where it breaks why, and what all of its time comes to.
     *
     * @param trouble times in which values were not good, as fine as the points
     * @param whole   all of the time as one interval, with extremes and area; empty where it cannot be told
     * @param told    why it cannot, in a sentence; empty where it can
     */
    public record Outlined(Samples points, List<Trouble> trouble, Optional<Fold> whole, String told) {}

    /** As {@link #outline}, with what belongs to it; the plot and the whole are of one reading where they can be. */
    public Outlined outlined(TagRef tag, Instant from, Instant to, int points, boolean stepped) throws Problem {
        Method method = stepped ? Method.STEPPED : Method.SLOPED;
        List<Fold> folds = new ArrayList<>();
        boolean withAreas = fold(tag, from, to, points, method, folds);
        Samples outline = Outline.of(folds);
        List<Trouble> trouble = Trouble.in(folds, OpcUaTime.toTicks(clock.now()));
        if (withAreas) {
            return new Outlined(outline, trouble, Fold.whole(folds), "");
        }
        long first = OpcUaTime.toTicks(from);
        long last = OpcUaTime.toTicks(to);
        List<Fold> whole = new ArrayList<>();
        try {
            fold(tag, first, last, last - first, method, WITH_AREA, whole::add);
        } catch (Problem summariesAlone) {
            // What is shown is all that can be told of it.
            return new Outlined(outline, trouble, Optional.empty(), summariesAlone.getMessage());
        }
        return new Outlined(outline, trouble, whole.stream().findFirst(), "");
    }

    /** @return whether areas were folded, too, and the intervals are all of the time and no more */
    private boolean fold(TagRef tag, Instant from, Instant to, int points, Method method, List<Fold> folds)
            throws Problem {
        Intervals exact = Intervals.ofPlot(OpcUaTime.toTicks(from), OpcUaTime.toTicks(to), points);
        try {
            return fold(tag, exact, method, WITH_AREA, folds::add);
        } catch (OnlySummaries coarse) {
            folds.clear();
            fold(tag, exact.inMinutes(), method, Outline.PARTS, folds::add);
            return false;
        }
    }

    /**
     * Folds a time, however long, into intervals that follow each other. From summaries, where intervals begin and end with
     * whole minutes or hours; from the values themselves elsewhere.
     *
     * @param from first tick
     * @param to   behind the last; the last interval ends with it
     * @param step  length of each, in ticks
     * @param parts what will be read off the intervals: {@link dachshund.core.aggregate.Aggregate#parts}
     * @throws Problem with a sentence, where our own database does not answer, or where only summaries are left and the
     *                 intervals are finer than these
     */
    public void fold(
            TagRef tag, long from, long to, long step, Method method, Set<Fold.Part> parts, Consumer<Fold> taker)
            throws Problem {
        fold(tag, Intervals.of(from, to, step), method, parts, taker);
    }

    /** @return whether all that was asked for was folded: of what is read for a plot alone, no areas are known */
    private boolean fold(TagRef tag, Intervals asked, Method method, Set<Fold.Part> parts, Consumer<Fold> taker)
            throws Problem {
        long key = TagKey.of(tag);
        long now = OpcUaTime.toTicks(clock.now());
        long firstSpan = ArchiveStore.spanOf(asked.from());
        long lastSpan = ArchiveStore.spanOf(asked.to());
        if (lastSpan - firstSpan <= FEW_SPANS) {
            Optional<Samples> all = thin(tag, key, asked, AT_ONCE);
            if (all.isPresent()) {
                boolean outlineAlone = all.get().stretches().forPlots();
                asked.fold(all.get(), method, now, outlineAlone ? Outline.PARTS : parts, taker);
                return !outlineAlone;
            }
        }
        // Parts of it are read after each other, so that a year takes no more memory than a day.
        long aPiece = asked.aPiece(1 + table.weight(key, firstSpan, lastSpan, asked.unit()) / AT_ONCE);
        boolean all = true;
        for (Intervals left = asked; left.from() < asked.to(); ) {
            Intervals part = left.first(aPiece);
            Samples some = thin(tag, key, part, Long.MAX_VALUE).orElseThrow();
            all &= !some.stretches().forPlots();
            part.fold(some, method, now, some.stretches().forPlots() ? Outline.PARTS : parts, taker);
            left = left.behind(part);
        }
        return all;
    }

    /**
     * The samples of a time with the last one before it, folded where no interval begins or ends amid what is folded; empty where
     * there are more than are read at once.
     */
    private Optional<Samples> thin(TagRef tag, long key, Intervals asked, long most) throws Problem {
        // What is on its way is looked at first: it may be stored meanwhile, and is then read twice, never missed.
        Map<Long, List<Column>> tail = new HashMap<>();
        long last = ArchiveStore.spanOf(asked.to());
        for (Column column : Block.columns(Series.of(onItsWay.apply(tag)))) {
            long span = ArchiveStore.spanOf(column.time(0));
            if (span <= last) {
                tail.computeIfAbsent(span, none -> new ArrayList<>()).add(column);
            }
        }
        Map<Long, Long> fresh = new HashMap<>();
        tail.forEach((span, columns) -> fresh.put(span, first(columns)));
        Optional<Found> found = known.in(key, ArchiveStore.spanOf(asked.from()), last, Wanted.of(asked), fresh, most);
        return found.isEmpty() ? Optional.empty() : Optional.of(together(key, tail, found.get(), asked));
    }

    private static long first(List<Column> columns) {
        return columns.stream().mapToLong(column -> column.time(0)).min().orElse(Long.MAX_VALUE);
    }

    private Samples together(long key, Map<Long, List<Column>> tail, Found found, Intervals asked) throws Problem {
        TreeMap<Long, List<Readable>> spans = new TreeMap<>();
        tail.keySet().forEach(span -> spans.put(span, new ArrayList<>()));
        found.asValues().forEach(span -> spans.put(span, new ArrayList<>()));
        for (Readable block : found.blocks()) {
            spans.computeIfAbsent(block.head().span(), none -> new ArrayList<>())
                    .add(block);
        }
        List<Samples> all = new ArrayList<>();
        for (Map.Entry<Long, List<Readable>> span : spans.entrySet()) {
            List<Column> fresh = tail.getOrDefault(span.getKey(), List.of());
            all.add(
                    found.asValues().contains(span.getKey())
                            ? merged(key, span.getKey(), fresh)
                            : samples(key, span.getKey(), span.getValue(), fresh, asked));
        }
        return Samples.of(all);
    }

    private Samples samples(long key, long span, List<Readable> blocks, List<Column> fresh, Intervals asked)
            throws Problem {
        boolean cut = blocks.stream().anyMatch(block -> cuts(block, asked));
        boolean gone = blocks.stream().anyMatch(Readable::gone);
        if (gone && cut && asked.unit() == Unit.HOUR) {
            // What ends amid an hour may end with a minute.
            List<Readable> minutes = known
                    .in(key, span, span, Wanted.of(asked.in(Unit.MINUTE)), Map.of(), Long.MAX_VALUE)
                    .orElseThrow()
                    .blocks()
                    .stream()
                    .filter(block -> block.head().span() == span)
                    .toList();
            return samples(key, span, minutes, fresh, asked.in(Unit.MINUTE));
        }
        if (gone && cut) {
            throw new OnlySummaries();
        }
        List<Readable> apart = gone ? apart(blocks) : blocks;
        boolean follow = apart.isEmpty() || apart.get(apart.size() - 1).head().last() < first(fresh);
        if (!gone && !(follow && Head.follow(heads(apart)))) {
            return merged(key, span, fresh);
        }
        try {
            List<Samples> folded = samples(apart);
            Optional<List<Samples>> read = cut ? known.values(key, span, apart) : Optional.of(folded);
            if (read.isPresent()) {
                return sideBySide(read.get(), follow ? fresh : List.of());
            }
        } catch (BlockCodec.Damaged altered) {
            // What can be read of it is put together.
        }
        return merged(key, span, fresh);
    }

    /** Whether an interval may begin or end amid what is folded of a block. */
    private static boolean cuts(Readable block, Intervals asked) {
        return block.folded() && asked.cut(block.head().first(), block.head().last(), block.unit());
    }

    /**
     * Where values are gone, what came to their time since is not put together with what is left of them: there is nothing to
     * put it to. What lies beside it is there.
     */
    private static List<Readable> apart(List<Readable> blocks) {
        List<Readable> earliest = blocks.stream()
                .sorted(Comparator.comparing(Readable::gone).reversed().thenComparingLong(each -> each.head()
                        .id()))
                .toList();
        List<Readable> all = new ArrayList<>();
        for (Readable block : earliest) {
            List<Readable> more = new ArrayList<>(all);
            more.add(block);
            more.sort(Comparator.comparingLong(each -> each.head().first()));
            if (Head.follow(heads(more))) {
                all = more;
            }
        }
        return all;
    }

    private static List<Head> heads(List<Readable> blocks) {
        return blocks.stream().map(Readable::head).toList();
    }

    private static List<Samples> samples(List<Readable> blocks) throws BlockCodec.Damaged {
        List<Samples> all = new ArrayList<>();
        for (Readable block : blocks) {
            all.add(block.samples());
        }
        return all;
    }

    private static Samples sideBySide(List<Samples> stored, List<Column> fresh) {
        List<Samples> all = new ArrayList<>(stored);
        if (!fresh.isEmpty()) {
            all.add(Series.of(fresh).samples());
        }
        return all.size() == 1 ? all.get(0) : Samples.of(all);
    }

    /** All values of a span, those on their way too, put together. */
    private Samples merged(long key, long span, List<Column> fresh) throws Problem {
        List<Column> columns = new ArrayList<>();
        columns(table.blocks(key, span, span), columns);
        columns.addAll(fresh);
        return Series.of(columns).samples();
    }

    /** How many cannot be read, since they were altered on disk; from where they begin on nothing is known. */
    private static int columns(List<Kept> blocks, List<Column> columns) {
        int damaged = 0;
        for (Kept block : blocks) {
            try {
                columns.add(BlockCodec.read(block.data()));
            } catch (BlockCodec.Damaged altered) {
                damaged++;
                Column gap = new Column(Column.Sort.NUMBER, 1);
                gap.addNumber(block.first(), Double.NaN, Marks.of(Marks.Gap.LOST));
                columns.add(0, gap);
            }
        }
        return damaged;
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
        List<Column> tail = onItsWay.apply(tag);
        List<Kept> blocks = new ArrayList<>();
        Optional<Long> before = table.spanBefore(key, first);
        if (before.isPresent()) {
            blocks.addAll(table.blocks(key, before.get(), before.get()));
        }
        blocks.addAll(table.blocks(key, first, last));
        List<Column> columns = new ArrayList<>();
        int damaged = columns(blocks, columns);
        columns.addAll(tail);
        return new History(Series.of(columns), damaged);
    }
}
