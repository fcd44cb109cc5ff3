package dachshund.engine.formula;

import dachshund.core.source.LinkProblem;
import dachshund.core.source.LinkState;
import dachshund.core.source.LinkTest;
import dachshund.core.source.PlantLink;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PlantClock;
import dachshund.engine.tag.TagTable;
import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.Future;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;

/**
 * The formula tags of one source. A formula is computed when one of its inputs changes, on the thread that delivers the
 * change, once for all changes of a batch; one whose result depends on time also at the source's rate.
 */
final class FormulaLink implements PlantLink {

    private final Duration rate;
    private final PlantClock clock;
    private final TagTable table;
    private final Map<String, RunningFormula> running = new ConcurrentHashMap<>();
    private volatile List<TagInfo> wanted = List.of();
    private volatile Listener listener;
    private Future<?> timer;

    FormulaLink(Duration rate, PlantClock clock, TagTable table) {
        this.rate = rate;
        this.clock = clock;
        this.table = table;
    }

    @Override
    public LinkTest test(Duration limit) {
        return LinkTest.good("Formula tags need no connection.", "Formula tags");
    }

    @Override
    public Page browse(String folder, String path, String from) throws LinkProblem {
        throw new LinkProblem("Formula tags are described, not browsed.");
    }

    @Override
    public synchronized void start(Listener heard, ScheduledExecutorService work) {
        listener = heard;
        heard.onState(LinkState.CONNECTED, "Computed as the inputs change.");
        follow();
        timer = work.scheduleAtFixedRate(
                () -> running.values().forEach(RunningFormula::tick),
                rate.toMillis(),
                rate.toMillis(),
                TimeUnit.MILLISECONDS);
    }

    @Override
    public synchronized void want(Collection<TagInfo> tags) {
        wanted = List.copyOf(tags);
        if (listener != null) {
            follow();
        }
    }

    private void follow() {
        Map<String, TagInfo> byAddress = new HashMap<>();
        wanted.forEach(tag -> byAddress.put(tag.address(), tag));
        running.values().removeIf(formula -> {
            boolean gone = !formula.tag().equals(byAddress.get(formula.tag().address()));
            if (gone) {
                formula.close();
            }
            return gone;
        });
        for (TagInfo tag : wanted) {
            if (!running.containsKey(tag.address())) {
                RunningFormula formula = new RunningFormula(tag, table, clock, value -> deliver(tag, value));
                running.put(tag.address(), formula);
                formula.begin();
            }
        }
    }

    private void deliver(TagInfo tag, TagValue value) {
        Listener heard = listener;
        if (heard != null) {
            heard.onBatch(List.of(new TagChange(tag.address(), value)));
        }
    }

    @Override
    public Map<String, TagValue> read(Collection<TagInfo> tags, Duration limit) {
        Map<String, TagValue> values = new HashMap<>();
        Instant now = clock.now();
        tags.forEach(tag -> values.put(
                tag.address(),
                Optional.ofNullable(running.get(tag.address()))
                        .map(RunningFormula::compute)
                        .orElse(new TagValue(Optional.empty(), Quality.WAITING, now, now))));
        return values;
    }

    @Override
    public void write(TagInfo tag, Object value, Duration limit) throws LinkProblem {
        throw new LinkProblem("A formula tag is computed; it cannot be written.");
    }

    @Override
    public synchronized void close() {
        listener = null;
        if (timer != null) {
            timer.cancel(false);
        }
        running.values().forEach(RunningFormula::close);
        running.clear();
    }
}
