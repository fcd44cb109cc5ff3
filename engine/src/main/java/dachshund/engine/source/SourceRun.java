package dachshund.engine.source;

import dachshund.core.definition.SourceDefinition;
import dachshund.core.source.LinkHealth;
import dachshund.core.source.LinkState;
import dachshund.core.source.PlantLink;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagInfo;
import dachshund.core.time.PeriodText;
import dachshund.core.time.PlantClock;
import dachshund.engine.said.Said;
import dachshund.engine.tag.TagTable;
import dachshund.engine.thread.Threads;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.atomic.LongAdder;
import java.util.function.Consumer;
import java.util.stream.Collectors;

/** One source at work: hands its link's batches to the tag table and keeps its state, its errors and its pace. */
public final class SourceRun implements PlantLink.Listener {

    private static final int ERRORS_KEPT = 50;
    private static final Duration PACE = Duration.ofSeconds(5);
    private static final Duration LONG_EDIT = Duration.ofSeconds(5);

    private final TagTable table;
    private final PlantClock clock;
    private final Optional<PlantLink> link;
    private final boolean inside;
    private final Consumer<SourceRun> broken;
    private final ScheduledExecutorService work;
    private final ScheduledExecutorService edits;
    private final Said said = new Said();
    private volatile boolean closed;
    /** Closed, because everything ends. */
    private volatile boolean ended;

    private volatile long editSince;
    private final LongAdder changes = new LongAdder();
    private final SourceClock sourceClock = new SourceClock();
    private final Deque<Fault> faults = new ArrayDeque<>();
    private final Map<String, LastWrite> writes = new ConcurrentHashMap<>();
    private final LongAdder faultCount = new LongAdder();
    private volatile SourceDefinition definition;
    private volatile Status status;
    private volatile Instant paceFrom;
    private long paceChanges;
    private volatile double perSecond;

    /** How a source stands, since when, and why in words. */
    public record Status(LinkState state, Instant since, String sentence) {}

    /** Something that went wrong. */
    public record Fault(Instant at, String sentence) {}

    /** Who wrote a tag last from here. */
    public record LastWrite(String by, Instant at, Object value) {}

    /**
     * @param link   absent where the source is paused
     * @param inside whether nothing outside is asked, so that nothing can hang
     * @param broken told when something was thrown that nobody expected: the link has to be opened anew
     */
    SourceRun(
            SourceDefinition definition,
            Optional<PlantLink> link,
            Status first,
            boolean inside,
            TagTable table,
            PlantClock clock,
            Consumer<SourceRun> broken) {
        this.definition = definition;
        this.link = link;
        this.inside = inside;
        this.table = table;
        this.clock = clock;
        this.broken = broken;
        this.status = first;
        this.paceFrom = clock.now();
        // Threads of its own: what hangs or throws there is this source's affair alone.
        this.work = Threads.pool("link-" + definition.id(), 2, this::threw);
        this.edits = Threads.pool("edit-" + definition.id(), 1, this::threw);
    }

    void start() {
        link.ifPresent(each -> edit(() -> {
            try {
                each.want(definition.tags());
                each.start(this, work);
            } finally {
                if (closed) {
                    each.close(); // it was closed in between, and may have been opened since
                }
            }
        }));
    }

    /** Tells the link something; a link that hangs while it listens holds up nobody. */
    private void edit(Runnable telling) {
        if (inside) {
            telling.run();
            return;
        }
        edits.execute(() -> {
            editSince = System.nanoTime();
            try {
                telling.run();
            } finally {
                editSince = 0;
            }
        });
    }

    private void threw(Throwable thrown) {
        if (closed) {
            return;
        }
        String sentence = "It failed for a reason that is not known here (" + Threads.words(thrown)
                + "). It is connected anew in a few seconds.";
        Threads.report(thrown);
        onState(LinkState.AWAY, sentence);
        broken.accept(this);
    }

    public SourceDefinition definition() {
        return definition;
    }

    public Status status() {
        long since = editSince;
        if (since != 0 && System.nanoTime() - since > LONG_EDIT.toNanos()) {
            return new Status(
                    status.state(),
                    status.since(),
                    status.sentence() + " A change of its tags has been under way for "
                            + PeriodText.roughly(Duration.ofNanos(System.nanoTime() - since))
                            + ": the source does not answer.");
        }
        return status;
    }

    /** The link at work; absent where the source is paused. */
    public Optional<PlantLink> link() {
        return link;
    }

    /** How many changes came since the start. */
    public long changes() {
        return changes.sum();
    }

    /** Changes a second, over the last five to ten seconds. */
    public synchronized double perSecond() {
        Instant now = clock.now();
        long nanos = Duration.between(paceFrom, now).toNanos();
        if (nanos >= PACE.toNanos()) {
            long sum = changes.sum();
            perSecond = (sum - paceChanges) * 1e9 / nanos;
            paceChanges = sum;
            paceFrom = now;
        }
        return perSecond;
    }

    /** How many of its tags have a value that is not bad. */
    public long liveTags() {
        return table.live(definition.id());
    }

    public LinkHealth health() {
        return link.map(PlantLink::health).orElse(LinkHealth.NONE);
    }

    /** A sentence where the source's clock seems wrong; else empty. */
    public String clockRemark() {
        return status.state() == LinkState.CONNECTED ? sourceClock.sentence() : "";
    }

    /** The newest of what went wrong, newest first. */
    public List<Fault> faults() {
        synchronized (faults) {
            return List.copyOf(faults);
        }
    }

    /** How often something went wrong since the start. */
    public long faultCount() {
        return faultCount.sum();
    }

    /** Who wrote a tag last from here, since the start. */
    public Optional<LastWrite> lastWrite(String address) {
        return Optional.ofNullable(writes.get(address));
    }

    void wrote(String address, LastWrite write) {
        writes.put(address, write);
    }

    @Override
    public void onBatch(List<TagChange> batch) {
        if (closed) {
            return;
        }
        changes.add(batch.size());
        sourceClock.note(batch, clock.now());
        table.offer(definition.id(), batch);
        if (closed) {
            away(); // it was closed in between
        }
    }

    @Override
    public void onDelivered(int delivered) {
        changes.add(delivered);
    }

    @Override
    public void onState(LinkState state, String sentence) {
        if (closed) {
            return;
        }
        said.note(clock.now(), state.words() + ": " + sentence);
        if (state == LinkState.AWAY) {
            table.away(definition.id(), clock.now());
            onProblem(sentence);
        }
        if (state == LinkState.CONNECTED) {
            sourceClock.begin();
        }
        if (state != status.state() || !sentence.equals(status.sentence())) {
            Instant since = state == status.state() ? status.since() : clock.now();
            status = new Status(state, since, sentence);
        }
    }

    @Override
    public void onProblem(String sentence) {
        faultCount.increment();
        said.note(clock.now(), sentence);
        synchronized (faults) {
            faults.addFirst(new Fault(clock.now(), sentence));
            if (faults.size() > ERRORS_KEPT) {
                faults.removeLast();
            }
        }
    }

    /** Takes over another set of tags or a name; what stays is not touched. */
    void follow(SourceDefinition next) {
        Set<String> gone = new HashSet<>(addresses(definition));
        gone.removeAll(addresses(next));
        boolean sameTags = definition.tags().equals(next.tags());
        definition = next;
        if (!sameTags) {
            link.ifPresent(each -> edit(() -> each.want(next.tags())));
            table.forget(next.id(), gone);
        }
    }

    private void away() {
        if (!ended) {
            table.away(definition.id(), clock.now());
        }
    }

    /** As {@link #close}, because everything ends: nothing in the plant changes by that, so nobody is told that it is away. */
    Thread end() {
        ended = true;
        return close();
    }

    /** Is closed at once; the thread returned lets go of the connection, however long that takes. */
    Thread close() {
        closed = true;
        away();
        return Threads.once("close-" + definition.id(), () -> {
            link.ifPresent(PlantLink::close);
            edits.shutdownNow();
            work.shutdownNow();
        });
    }

    /** What it said lately, newest first. */
    public List<Said.Line> said() {
        return said.lines();
    }

    private static Set<String> addresses(SourceDefinition definition) {
        return definition.tags().stream().map(TagInfo::address).collect(Collectors.toSet());
    }
}
