package dachshund.engine.formula;

import dachshund.core.source.LinkProblem;
import dachshund.core.source.LinkState;
import dachshund.core.source.LinkTest;
import dachshund.core.source.PlantLink;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PlantClock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
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
 * The formula tags of one source. A formula is computed when one of its inputs changes, as part of the batch that changed
 * it; one whose result depends on time also at the source's rate.
 */
final class FormulaLink implements PlantLink {

    private final String source;
    private final Duration rate;
    private final PlantClock clock;
    private final FormulaNet net;
    private final Map<String, RunningFormula> running = new ConcurrentHashMap<>();
    private volatile List<TagInfo> wanted = List.of();
    private volatile Listener listener;
    private Future<?> timer;

    FormulaLink(String source, Duration rate, PlantClock clock, FormulaNet net) {
        this.source = source;
        this.rate = rate;
        this.clock = clock;
        this.net = net;
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
                () -> net.tick(running.values()), rate.toMillis(), rate.toMillis(), TimeUnit.MILLISECONDS);
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
        List<RunningFormula> gone = running.values().stream()
                .filter(formula ->
                        !formula.tag().equals(byAddress.get(formula.tag().address())))
                .toList();
        gone.forEach(formula -> running.remove(formula.tag().address(), formula));
        List<RunningFormula> fresh = new ArrayList<>();
        for (TagInfo tag : wanted) {
            if (!running.containsKey(tag.address())) {
                RunningFormula formula =
                        new RunningFormula(new TagRef(source, tag.address()), tag, clock, this::computed);
                running.put(tag.address(), formula);
                fresh.add(formula);
            }
        }
        net.replace(gone, fresh);
    }

    private void computed() {
        Listener heard = listener;
        if (heard != null) {
            heard.onDelivered(1);
        }
    }

    @Override
    public Map<String, TagValue> read(Collection<TagInfo> tags, Duration limit) {
        Map<String, TagValue> values = new HashMap<>();
        Instant now = clock.now();
        tags.forEach(tag -> values.put(
                tag.address(),
                Optional.ofNullable(running.get(tag.address()))
                        .map(net::now)
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
        net.replace(List.copyOf(running.values()), List.of());
        running.clear();
    }
}
