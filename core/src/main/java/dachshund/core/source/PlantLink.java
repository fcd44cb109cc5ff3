package dachshund.core.source;

import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagInfo;
import java.time.Duration;
import java.util.Collection;
import java.util.List;
import java.util.concurrent.ScheduledExecutorService;

/**
 * A connection to one source over its protocol. After {@link #start} the link connects, reconnects by itself with
 * growing pauses, and tells its listener of values and states until it is closed. All methods may be called from any
 * thread.
 */
public interface PlantLink extends AutoCloseable {

    /** Hears from a link. Calls come from the link's own threads, one at a time, and must return quickly. */
    interface Listener {

        /** All changes of one notification together. */
        void onBatch(List<TagChange> changes);

        /** The link changed its state; the sentence says why in words for a person. */
        void onState(LinkState state, String sentence);
    }

    /** A folder or a tag found while browsing. */
    sealed interface Found {
        record Folder(String address, String path, String name) implements Found {
        }

        record Tag(TagInfo info) implements Found {
        }

    }

    /**
     * Connects once, asks something harmless and disconnects; says what answered or what failed.
     *
     * @param limit longest time to spend
     */
    LinkTest test(Duration limit);

    /**
     * What lies directly under a folder.
     *
     * @param folder address of the folder, empty for the top
     * @param path   the folders above, as {@link TagInfo#path}
     * @throws LinkProblem when the source does not answer
     */
    List<Found> browse(String folder, String path) throws LinkProblem;

    /**
     * Begins to connect and to deliver the wanted tags. Called once.
     *
     * @param work runs what the link has to do by itself, such as connecting again after a pause
     */
    void start(Listener listener, ScheduledExecutorService work);

    /** The addresses to deliver from now on; replaces what was wanted before and leaves what stays untouched. */
    void want(Collection<String> addresses);

    @Override
    void close();
}
