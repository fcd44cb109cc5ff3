package dachshund.engine.archive;

import dachshund.core.archive.ArchiveStore;
import dachshund.core.archive.BlockCodec;
import dachshund.core.archive.Column;
import dachshund.core.archive.Series;
import dachshund.core.archive.TagKey;
import dachshund.core.tag.TagRef;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** A store in memory that misbehaves as it is told. */
final class FakeArchiveStore implements ArchiveStore {

    private final List<Block> blocks = new ArrayList<>();
    private final Map<String, Lane> lanes = new LinkedHashMap<>();
    final Map<Long, Tag> tags = new LinkedHashMap<>();

    /** What happens at each call. */
    volatile Mood mood = Mood.WELL;

    volatile int calls;
    volatile int offers;

    /** It refuses values of this tag, gaps not, and says nothing that helps. */
    volatile Optional<TagRef> refuses = Optional.empty();

    /** In a way that nobody expects. */
    volatile boolean refusesOddly;

    private void refuse(List<Block> more) throws Problem {
        for (Block block : more) {
            if (block.values() > 0
                    && refuses.map(TagKey::of).filter(key -> key == block.tag()).isPresent()) {
                if (refusesOddly) {
                    throw new IllegalStateException("Error 4711.");
                }
                throw new Problem("Error 4711.", null);
            }
        }
    }

    @Override
    public synchronized void offer(List<Block> some, List<Tag> of) throws Problem {
        offers++;
        mood();
        refuse(some);
    }

    enum Mood {
        WELL,
        AWAY,
        /** Does it, and says that it did not. */
        UNHEARD,
        /** Throws what nobody expects. */
        THROWS,
        ERROR
    }

    private void mood() throws Problem {
        calls++;
        if (mood == Mood.AWAY) {
            throw new Problem("The store is away.", null);
        }
        if (mood == Mood.THROWS) {
            throw new IllegalStateException("a defect");
        }
        if (mood == Mood.ERROR) {
            throw new StackOverflowError("deep");
        }
    }

    @Override
    public synchronized List<Lane> lanes() throws Problem {
        mood();
        return List.copyOf(lanes.values());
    }

    @Override
    public synchronized void store(List<Block> more, List<Lane> far, List<Tag> of) throws Problem {
        mood();
        refuse(more);
        blocks.addAll(more);
        far.forEach(lane -> lanes.put(lane.journal() + lane.lane(), lane));
        of.forEach(tag -> tags.put(tag.key(), tag));
        if (mood == Mood.UNHEARD) {
            throw new Problem("The answer did not come.", null);
        }
    }

    /** All that is stored of a tag. */
    synchronized Series series(TagRef tag) {
        List<Column> columns = new ArrayList<>();
        long key = TagKey.of(tag);
        blocks.stream().filter(block -> block.tag() == key).forEach(block -> columns.add(read(block)));
        return Series.of(columns);
    }

    private static Column read(Block block) {
        try {
            return BlockCodec.read(block.data());
        } catch (BlockCodec.Damaged never) {
            throw new AssertionError(never);
        }
    }

    /** What became of all values of all lanes. */
    synchronized Counts counts() {
        return lanes.values().stream().map(Lane::counts).reduce(Counts.NONE, Counts::plus);
    }

    /** Values in all blocks. */
    synchronized long values() {
        return blocks.stream().mapToLong(Block::values).sum();
    }

    synchronized List<Block> blocks() {
        return List.copyOf(blocks);
    }
}
