package dachshund.office.archive;

import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import dachshund.core.aggregate.Samples;
import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.archive.BlockCodec;
import dachshund.core.archive.BlockCodec.Damaged;
import dachshund.core.archive.Summary;
import dachshund.core.archive.Summary.Unit;
import dachshund.office.archive.BlockTable.Head;
import dachshund.office.archive.BlockTable.Kept;
import dachshund.office.archive.BlockTable.Thin;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.LongSummaryStatistics;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;

/**
 * Blocks as they are folded, of which those that were folded lately are in memory: a trend that somebody looks at again, or
 * another one over the same days, reads of the database what is new alone. A block never changes; whether it is there still is
 * asked each time, of an index.
 */
final class KnownBlocks {

    /** A trend of twenty curves over a week takes some 16 MB. */
    private static final long MOST_BYTES = 48L << 20;

    private static final int BYTES_A_BLOCK = 200;
    private static final int BYTES_A_SAMPLE = 8 + 8 + 1;
    private static final int BYTES_A_STRETCH = 12 * 8;

    /** Of fewer values an interval, folding them would leave about as many. */
    private static final long MANY_AN_INTERVAL = 4;

    /** There is no summary: values are read instead. */
    private static final Samples AS_VALUES = new Samples(1);

    private final BlockTable table;

    private final Cache<Key, Known> lately = Caffeine.newBuilder()
            .maximumWeight(MOST_BYTES)
            .weigher((Key key, Known known) -> known.bytes())
            .executor(Runnable::run)
            .build();

    /**
     * What blocks are read as.
     *
     * @param unit the longest unit that the intervals begin and end with
     * @param plot whether what an outline needs is all that is wanted
     * @param step ticks; what lies in one multiple of it each may be folded; 0 where no more may be than is kept so
     */
    record Wanted(Unit unit, boolean plot, long step) {

        static Wanted of(Intervals asked) {
            return new Wanted(asked.unit(), asked.plot(), asked.plot() ? asked.step() : 0);
        }

        private Form form() {
            return unit == Unit.HOUR
                    ? plot ? Form.HOURS_OF_A_PLOT : Form.HOURS
                    : plot ? Form.MINUTES_OF_A_PLOT : Form.MINUTES;
        }

        /** Whether folding the values of a block leaves few of them. */
        private boolean isFolded(Head head) {
            return step > 0 && head.values() / MANY_AN_INTERVAL > (head.last() - head.first()) / step;
        }
    }

    /** What a block is: all its values, or a summary of them, where there is such. */
    private enum Form {
        VALUES,
        MINUTES,
        HOURS,
        MINUTES_OF_A_PLOT,
        HOURS_OF_A_PLOT
    }

    /**
     * A block in one of its forms. Numbers of blocks begin anew where our own database is a new one.
     *
     * @param step ticks by which its values are folded; 0 where they are not
     */
    private record Key(long tag, Head head, Form form, long step) {}

    private record Known(boolean gone, Samples samples) {

        int bytes() {
            return BYTES_A_BLOCK
                    + BYTES_A_SAMPLE * samples.size()
                    + BYTES_A_STRETCH * samples.stretches().size();
        }
    }

    KnownBlocks(BlockTable table) {
        this.table = table;
    }

    /** A block that is there; what it holds is read out of its bytes when it is asked for. */
    final class Readable {

        private final long tag;
        private final Head head;
        private final Wanted wanted;
        private final boolean gone;
        private final boolean summary;
        private final byte[] bytes;

        private Samples samples;

        private Readable(long tag, Head head, Wanted wanted, Known known, boolean summary) {
            this.tag = tag;
            this.head = head;
            this.wanted = wanted;
            this.gone = known.gone();
            this.summary = summary;
            this.bytes = null;
            this.samples = known.samples();
        }

        private Readable(long tag, Thin thin, Wanted wanted) {
            this.tag = tag;
            this.head = thin.head();
            this.wanted = wanted;
            this.gone = thin.gone();
            this.summary = Summary.is(thin.bytes());
            this.bytes = thin.bytes();
        }

        Head head() {
            return head;
        }

        /** Whether its values are not kept any longer. */
        boolean gone() {
            return gone;
        }

        /** Whether it is read as a summary, or folded here. */
        boolean folded() {
            return summary || wanted.isFolded(head);
        }

        /** What is folded of it lies in one multiple of so many ticks each. */
        long unit() {
            return summary ? wanted.unit().ticks() : wanted.step();
        }

        /** Of all who ask for it alike: nobody adds to them. */
        Samples samples() throws Damaged {
            if (samples == null) {
                if (summary) {
                    samples = keep(Summary.read(bytes, wanted.plot()), wanted.form(), 0);
                } else {
                    keep(AS_VALUES, wanted.form(), 0);
                    samples = folded(keep(BlockCodec.read(bytes).samples(), Form.VALUES, 0));
                }
            }
            return samples;
        }

        private Samples folded(Samples values) {
            return wanted.isFolded(head) ? keep(values.folded(wanted.step()), Form.VALUES, wanted.step()) : values;
        }

        private Samples keep(Samples read, Form form, long step) {
            lately.put(new Key(tag, head, form, step), new Known(gone, read));
            return read;
        }
    }

    /** A block of which all or what was folded of it is in memory; null where it is not. */
    private Readable known(long tag, Head head, Wanted wanted) {
        Known known = lately.getIfPresent(new Key(tag, head, wanted.form(), 0));
        if (known == null || known.samples() != AS_VALUES) {
            return known == null ? null : new Readable(tag, head, wanted, known, true);
        }
        Known folded =
                wanted.isFolded(head) ? lately.getIfPresent(new Key(tag, head, Form.VALUES, wanted.step())) : null;
        if (folded != null) {
            return new Readable(tag, head, wanted, folded, false);
        }
        Known values = lately.getIfPresent(new Key(tag, head, Form.VALUES, 0));
        if (values == null) {
            return null;
        }
        Readable block = new Readable(tag, head, wanted, values, false);
        block.samples = block.folded(values.samples());
        return block;
    }

    /**
     * What there is of a tag.
     *
     * @param blocks   in the order of their spans and times
     * @param asValues spans whose values have to be put together anyway; their blocks are not among the others
     */
    record Found(List<Readable> blocks, Set<Long> asValues) {}

    /**
     * The blocks of a tag in some spans and in the last one before them that has any, as summaries where there are such.
     *
     * @param fresh the first time that is on its way, of each span of which there is any
     * @param most  samples, about; empty where there are more
     */
    Optional<Found> in(long tag, long fromSpan, long toSpan, Wanted wanted, Map<Long, Long> fresh, long most)
            throws Problem {
        Map<Long, List<Head>> spans = new TreeMap<>();
        table.heads(tag, fromSpan, toSpan).forEach(head -> spans.computeIfAbsent(head.span(), none -> new ArrayList<>())
                .add(head));
        List<Readable> all = new ArrayList<>();
        Set<Long> asValues = new HashSet<>();
        LongSummaryStatistics unknown = new LongSummaryStatistics();
        long samples = 0;
        for (Map.Entry<Long, List<Head>> span : spans.entrySet()) {
            if (needsValues(span.getValue(), fresh.getOrDefault(span.getKey(), Long.MAX_VALUE))) {
                asValues.add(span.getKey());
                samples += span.getValue().stream().mapToLong(Head::values).sum();
                continue;
            }
            for (Head head : span.getValue()) {
                Readable known = known(tag, head, wanted);
                if (known == null) {
                    unknown.accept(head.span());
                } else {
                    samples += known.samples.size();
                    all.add(known);
                }
            }
        }
        if (unknown.getCount() > 0) {
            // Of a span all of its blocks, as of one moment: they may have been put together since their heads were
            // read.
            all.removeIf(each ->
                    each.head().span() >= unknown.getMin() && each.head().span() <= unknown.getMax());
            Optional<List<Thin>> read =
                    table.thin(tag, unknown.getMin(), unknown.getMax(), wanted.unit(), Math.max(0, most - samples));
            if (read.isEmpty()) {
                return Optional.empty();
            }
            read.get().stream()
                    .filter(thin -> !asValues.contains(thin.head().span()))
                    .forEach(thin -> all.add(new Readable(tag, thin, wanted)));
            all.sort(Comparator.<Readable>comparingLong(each -> each.head().span())
                    .thenComparingLong(each -> each.head().first()));
        }
        return samples > most ? Optional.empty() : Optional.of(new Found(all, asValues));
    }

    /** Whether the values of a span have to be put together, as far as an index knows: none of its blocks may be one whose values are gone. */
    private static boolean needsValues(List<Head> blocks, long fresh) {
        boolean follow = Head.follow(blocks) && blocks.get(blocks.size() - 1).last() < fresh;
        return !follow && blocks.stream().allMatch(head -> head.values() > 0);
    }

    /**
     * All values of blocks of a span, side by side.
     *
     * @param blocks that follow each other and are there with their values
     * @return empty where the span has other blocks by now, or one of them was altered
     */
    Optional<List<Samples>> values(long tag, long span, List<Readable> blocks) throws Problem {
        Map<Head, Samples> all = new HashMap<>();
        for (Readable block : blocks) {
            Known known = lately.getIfPresent(new Key(tag, block.head(), Form.VALUES, 0));
            if (known != null) {
                all.put(block.head(), known.samples());
            }
        }
        if (all.size() < blocks.size()) {
            Map<Long, Kept> kept =
                    table.blocks(tag, span, span).stream().collect(Collectors.toMap(Kept::id, each -> each));
            if (kept.size() != blocks.size()) {
                return Optional.empty();
            }
            for (Readable block : blocks) {
                Kept of = kept.get(block.head().id());
                if (of == null) {
                    return Optional.empty();
                }
                try {
                    Samples samples = BlockCodec.read(of.data()).samples();
                    lately.put(new Key(tag, block.head(), Form.VALUES, 0), new Known(false, samples));
                    all.put(block.head(), samples);
                } catch (Damaged altered) {
                    return Optional.empty();
                }
            }
        }
        return Optional.of(blocks.stream().map(block -> all.get(block.head())).toList());
    }
}
