package dachshund.engine.source;

import dachshund.core.source.LinkHealth;
import dachshund.core.source.LinkProblem;
import dachshund.core.source.LinkTest;
import dachshund.core.source.PlantLink;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagValue;
import dachshund.engine.thread.Bounded;
import dachshund.engine.thread.Threads;
import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ScheduledExecutorService;

/**
 * A link of which nobody waits longer than a limit, whatever its protocol's library or its server does. A question that
 * hangs goes on by itself; when several do, further ones are refused at once.
 */
final class BoundedLink implements PlantLink {

    /** Questions to one source that may hang at once. */
    private static final int MOST = 8;

    private static final Duration BEYOND = Duration.ofSeconds(2);
    private static final Duration BROWSE = Duration.ofSeconds(20);
    private static final Duration HISTORY = Duration.ofSeconds(30);
    private static final Duration HEALTH = Duration.ofMillis(500);

    private final PlantLink link;
    private final Bounded asked = new Bounded("the source", MOST);
    private volatile LinkHealth lastHealth = LinkHealth.NONE;

    BoundedLink(PlantLink link) {
        this.link = link;
    }

    private <T> T within(Duration limit, Callable<T> question) throws LinkProblem {
        try {
            return asked.within(limit, question);
        } catch (Bounded.Unanswered silent) {
            throw new LinkProblem(silent.getMessage(), silent);
        } catch (ExecutionException failed) {
            if (failed.getCause() instanceof LinkProblem problem) {
                throw problem;
            }
            throw new LinkProblem(
                    "It failed for a reason that is not known here (" + Threads.words(failed.getCause()) + ").",
                    failed.getCause());
        }
    }

    @Override
    public LinkTest test(Duration limit) {
        try {
            return within(limit.plus(BEYOND).plus(BEYOND), () -> link.test(limit));
        } catch (LinkProblem problem) {
            return LinkTest.failed(problem.getMessage(), "");
        }
    }

    @Override
    public Page browse(String folder, String path, String from) throws LinkProblem {
        return within(BROWSE, () -> link.browse(folder, path, from));
    }

    @Override
    public Map<String, TagValue> read(Collection<TagInfo> tags, Duration limit) throws LinkProblem {
        return within(limit.plus(BEYOND), () -> link.read(tags, limit));
    }

    @Override
    public void write(TagInfo tag, Object value, Duration limit) throws LinkProblem {
        within(limit.plus(BEYOND), () -> {
            link.write(tag, value, limit);
            return true;
        });
    }

    @Override
    public void publish(String topic, String payload, boolean retained, Duration limit) throws LinkProblem {
        within(limit.plus(BEYOND), () -> {
            link.publish(topic, payload, retained, limit);
            return true;
        });
    }

    @Override
    public List<TagValue> history(TagInfo tag, Instant from, Instant to, int most) throws LinkProblem {
        return within(HISTORY, () -> link.history(tag, from, to, most));
    }

    /** As it was last known, where the link does not say it at once. */
    @Override
    public LinkHealth health() {
        try {
            lastHealth = within(HEALTH, link::health);
        } catch (LinkProblem notNow) {
            return lastHealth;
        }
        return lastHealth;
    }

    @Override
    public void start(Listener listener, ScheduledExecutorService work) {
        link.start(listener, work);
    }

    @Override
    public void want(Collection<TagInfo> tags) {
        link.want(tags);
    }

    @Override
    public void close() {
        link.close();
    }
}
