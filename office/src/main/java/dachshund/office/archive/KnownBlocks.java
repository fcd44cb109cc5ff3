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
import dachshund.office.archive.BlockTable.Thin;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashSet;
import java.util.List;
import java.util.LongSummaryStatistics;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;

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

    private final BlockTable table;

    private final Cache<Key, Known> lately = Caffeine.newBuilder()
            .maximumWeight(MOST_BYTES)
            .weigher((Key key, Known known) -> known.bytes())
            .executor(Runnable::run)
            .build();

    /** A block in one of the forms in which it can be read. Numbers of blocks begin anew where our own database is a new one. */
    private record Key(long tag, Head head, Unit unit, boolean plot) {}

    private record Known(boolean gone, boolean folded, Samples samples) {

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

        private final Key key;
        private final boolean gone;
        private final boolean folded;
        private final byte[] bytes;

        private Samples samples;

        private Readable(Key key, Known known) {
            this.key = key;
            this.gone = known.gone();
            this.folded = known.folded();
            this.bytes = null;
            this.samples = known.samples();
        }

        private Readable(Key key, Thin thin) {
            this.key = key;
            this.gone = thin.gone();
            this.folded = Summary.is(thin.bytes());
            this.bytes = thin.bytes();
        }

        Head head() {
            return key.head();
        }

        /** Whether its values are not kept any longer. */
        boolean gone() {
            return gone;
        }

        /** Whether it is read as a summary. */
        boolean folded() {
            return folded;
        }

        /** Of all who ask for it alike: nobody adds to them. */
        Samples samples() throws Damaged {
            if (samples == null) {
                samples = folded
                        ? Summary.read(bytes, key.plot())
                        : BlockCodec.read(bytes).samples();
                lately.put(key, new Known(gone, folded, samples));
            }
            return samples;
        }
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
     * @param unit  the longest unit that the intervals begin and end with
     * @param plot  whether what an outline needs is all that is wanted
     * @param fresh spans of which values are on their way
     * @param most  samples, about; empty where there are more
     */
    Optional<Found> in(long tag, long fromSpan, long toSpan, Unit unit, boolean plot, Set<Long> fresh, long most)
            throws Problem {
        Map<Long, List<Head>> spans = new TreeMap<>();
        table.heads(tag, fromSpan, toSpan).forEach(head -> spans.computeIfAbsent(head.span(), none -> new ArrayList<>())
                .add(head));
        List<Readable> all = new ArrayList<>();
        Set<Long> asValues = new HashSet<>();
        LongSummaryStatistics unknown = new LongSummaryStatistics();
        long samples = 0;
        for (Map.Entry<Long, List<Head>> span : spans.entrySet()) {
            if (needsValues(span.getValue(), fresh.contains(span.getKey()))) {
                asValues.add(span.getKey());
                samples += span.getValue().stream().mapToLong(Head::values).sum();
                continue;
            }
            for (Head head : span.getValue()) {
                Key key = new Key(tag, head, unit, plot);
                Known known = lately.getIfPresent(key);
                if (known == null) {
                    unknown.accept(head.span());
                } else {
                    samples += known.samples().size();
                    all.add(new Readable(key, known));
                }
            }
        }
        if (unknown.getCount() > 0) {
            // Of a span all of its blocks, as of one moment: they may have been put together since their heads were
            // read.
            all.removeIf(each ->
                    each.head().span() >= unknown.getMin() && each.head().span() <= unknown.getMax());
            Optional<List<Thin>> read =
                    table.thin(tag, unknown.getMin(), unknown.getMax(), unit, Math.max(0, most - samples));
            if (read.isEmpty()) {
                return Optional.empty();
            }
            read.get().stream()
                    .filter(thin -> !asValues.contains(thin.head().span()))
                    .forEach(thin -> all.add(new Readable(new Key(tag, thin.head(), unit, plot), thin)));
            all.sort(Comparator.<Readable>comparingLong(each -> each.head().span())
                    .thenComparingLong(each -> each.head().first()));
        }
        return samples > most ? Optional.empty() : Optional.of(new Found(all, asValues));
    }

    /** Whether the values of a span have to be read, as far as an index knows: none of its blocks may be one whose values are gone. */
    private static boolean needsValues(List<Head> blocks, boolean fresh) {
        return (fresh || !Head.follow(blocks)) && blocks.stream().allMatch(head -> head.values() > 0);
    }
}
