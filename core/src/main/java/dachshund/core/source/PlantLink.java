package dachshund.core.source;

import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagValue;
import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ScheduledExecutorService;

/**
 * A connection to one source over its protocol. After {@link #start} the link connects, reconnects by itself with
 * growing pauses, and tells its listener of values and states until it is closed. All methods may be called from any
 * thread; {@link #test}, {@link #browse}, {@link #read}, {@link #write} and {@link #history} work before the start,
 * too, and may take as long as their limit.
 */
public interface PlantLink extends AutoCloseable {

    /** Hears from a link. Calls come from the link's own threads, batches one at a time, and must return quickly. */
    interface Listener {

        /** All changes of one notification together. */
        void onBatch(List<TagChange> changes);

        /** So many changes reached their tags by another way than {@link #onBatch}: computed, not received. */
        default void onDelivered(int changes) {}

        /** The link changed its state; the sentence says why in words for a person. */
        void onState(LinkState state, String sentence);

        /** Something went wrong that does not change the state, such as an answer that could not be read. */
        void onProblem(String sentence);
    }

    /** A folder or a tag found while browsing. */
    sealed interface Found {
        record Folder(String address, String path, String name) implements Found {}

        record Tag(TagInfo info) implements Found {}
    }

    /**
     * A page of what lies under a folder.
     *
     * @param more where the next page begins; empty where this is the last
     */
    record Page(List<Found> found, String more) {}

    /**
     * Connects once, asks something harmless and disconnects; says what answered or what failed.
     *
     * @param limit longest time to spend
     */
    LinkTest test(Duration limit);

    /**
     * What lies directly under a folder, page by page.
     *
     * @param folder address of the folder, empty for the top
     * @param path   the folders above, as {@link TagInfo#path}
     * @param from   empty for the first page, else {@link Page#more} of the page before
     * @throws LinkProblem when the source does not answer or cannot be browsed
     */
    Page browse(String folder, String path, String from) throws LinkProblem;

    /**
     * Begins to connect and to deliver the wanted tags. Called once.
     *
     * @param work runs what the link has to do by itself, such as connecting again after a pause
     */
    void start(Listener listener, ScheduledExecutorService work);

    /** The tags to deliver from now on; replaces what was wanted before and leaves what stays untouched. */
    void want(Collection<TagInfo> tags);

    /**
     * Asks for values now.
     *
     * @return by address; a tag that the source does not know has a bad value
     */
    Map<String, TagValue> read(Collection<TagInfo> tags, Duration limit) throws LinkProblem;

    /**
     * Writes one tag. The value has the type of the tag's kind: Boolean, Long, Double, BigDecimal, String or Instant.
     * Returns when the source has confirmed it.
     *
     * @throws LinkProblem with a sentence, where the source refused; nothing was written then, or it is not known
     */
    void write(TagInfo tag, Object value, Duration limit) throws LinkProblem;

    /**
     * Publishes a message.
     *
     * @param retained whether the source keeps it for whoever listens later
     * @throws LinkProblem with a sentence, where it was not taken by then, or it is not known
     */
    default void publish(String topic, String payload, boolean retained, Duration limit) throws LinkProblem {
        throw new LinkProblem("This source has no topics.");
    }

    /** Values that the source itself kept, oldest first, by source time from (included) to (excluded). */
    default List<TagValue> history(TagInfo tag, Instant from, Instant to, int most) throws LinkProblem {
        throw new LinkProblem("This source keeps no history.");
    }

    /** How the link does; cheap. */
    default LinkHealth health() {
        return LinkHealth.NONE;
    }

    @Override
    void close();
}
