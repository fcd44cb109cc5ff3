package dachshund.engine.source;

import dachshund.core.definition.Plant;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.reach.Outside;
import dachshund.core.secret.Seals;
import dachshund.core.source.LinkKind;
import dachshund.core.source.LinkProblem;
import dachshund.core.source.LinkState;
import dachshund.core.source.PlantLink;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PlantClock;
import dachshund.engine.live.AtWork;
import dachshund.engine.local.LocalStore;
import dachshund.engine.local.LocalStore.Stop;
import dachshund.engine.source.SourceRun.Status;
import dachshund.engine.tag.TagTable;
import dachshund.engine.thread.Threads;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.stream.Collectors;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** All sources at work, and writing to their tags. */
public final class Sources implements AtWork<SourceDefinition>, AutoCloseable {

    private static final Logger LOG = LoggerFactory.getLogger(Sources.class);
    private static final Duration OPEN_AGAIN = Duration.ofSeconds(5);
    private static final Duration LIMIT = Duration.ofSeconds(5);

    private final Map<String, LinkKind> kinds;
    private final Seals seals;
    private final Outside outside;
    private final TagTable table;
    private final PlantClock clock;
    private final LocalStore local;
    /** Why a source could not be put to work, by its id. */
    private final Map<String, String> refused = new ConcurrentHashMap<>();

    private final ScheduledExecutorService mending = Threads.pool("mending", 1);
    private final Map<String, SourceRun> runs = new ConcurrentHashMap<>();

    /**
     * What a write did.
     *
     * @param asked  what was to be written
     * @param before the value before
     * @param after  what was read back
     * @param same   whether what was read back is what was asked for
     */
    public record Written(Object asked, TagValue before, TagValue after, boolean same) {}

    public Sources(
            List<LinkKind> kinds, Seals seals, Outside outside, TagTable table, PlantClock clock, LocalStore local) {
        this.kinds = kinds.stream().collect(Collectors.toMap(LinkKind::id, kind -> kind));
        this.seals = seals;
        this.outside = outside;
        this.table = table;
        this.clock = clock;
        this.local = local;
    }

    /** @throws IllegalArgumentException where this version has no such protocol */
    public LinkKind kind(String id) {
        return Optional.ofNullable(kinds.get(id))
                .orElseThrow(() -> new IllegalArgumentException("There is no protocol " + id + " in this version."));
    }

    /** A link with the settings of the definition, not started. */
    public PlantLink open(SourceDefinition source) {
        LinkKind kind = kind(source.link());
        Map<String, String> clear = seals.opened(source.id(), kind.settings(), source.settings());
        PlantLink link = kind.open(new LinkKind.Opening(source.id(), clear, source.rate(), clock, outside));
        return kind.outside() ? new BoundedLink(link) : link;
    }

    @Override
    public Class<SourceDefinition> type() {
        return SourceDefinition.class;
    }

    @Override
    public void tryOut(SourceDefinition source, Plant plant) {
        open(source).close();
    }

    /** Makes the given sources, and only those, run. A source whose connection stays the same is not interrupted. */
    @Override
    public synchronized void changeover(List<SourceDefinition> wanted, Plant plant) {
        Map<String, SourceDefinition> byId =
                wanted.stream().collect(Collectors.toMap(SourceDefinition::id, source -> source));
        List.copyOf(runs.keySet()).stream().filter(id -> !byId.containsKey(id)).forEach(id -> runs.remove(id)
                .close());
        Map<String, Stop> paused = local.paused();
        refused.keySet().retainAll(byId.keySet());
        for (SourceDefinition source : wanted) {
            try {
                changeover(source, paused);
                refused.remove(source.id());
            } catch (RuntimeException cannot) {
                // One that cannot be put to work does not keep the others from it.
                LOG.error("The source {} cannot be put to work.", source.name(), cannot);
                String why = "This source cannot be put to work: " + Threads.words(cannot) + ".";
                refused.put(source.id(), why);
                runs.computeIfAbsent(source.id(), id -> standing(source, why));
            }
        }
    }

    private void changeover(SourceDefinition source, Map<String, Stop> paused) {
        SourceRun run = runs.get(source.id());
        if (run != null && sameConnection(run.definition(), source)) {
            run.follow(source);
            return;
        }
        Optional<Stop> pause = Optional.ofNullable(paused.get(source.id()));
        Optional<PlantLink> link = pause.isPresent() ? Optional.empty() : Optional.of(open(source));
        if (run != null) {
            run.close();
        }
        begin(source, pause, link);
    }

    /** A source without a link, so that its page is there and says why. */
    private SourceRun standing(SourceDefinition source, String why) {
        Status first = new Status(LinkState.AWAY, clock.now(), why);
        return new SourceRun(source, Optional.empty(), first, true, table, clock, run -> {});
    }

    @Override
    public String refused(String id) {
        return refused.getOrDefault(id, "");
    }

    private void begin(SourceDefinition source, Optional<Stop> pause, Optional<PlantLink> link) {
        Status first = pause.map(stop -> new Status(
                        LinkState.PAUSED,
                        stop.at(),
                        "Paused by " + stop.by() + (stop.why().isBlank() ? "." : ": " + stop.why())))
                .orElseGet(() -> new Status(LinkState.NOT_PROVEN, clock.now(), "Nothing has been tried yet."));
        SourceRun run =
                new SourceRun(source, link, first, !kind(source.link()).outside(), table, clock, this::openAgain);
        runs.put(source.id(), run);
        run.start();
    }

    private static boolean sameConnection(SourceDefinition a, SourceDefinition b) {
        return a.link().equals(b.link())
                && a.settings().equals(b.settings())
                && a.rate().equals(b.rate());
    }

    /** Closes the connection until somebody resumes it; acts at once and outlives a restart. */
    public synchronized void pause(String id, String by, String why) {
        local.pause(id, new Stop(by, clock.now(), why));
        again(id);
    }

    /** Connects a paused source again, at once. */
    public synchronized void resume(String id) {
        local.resume(id);
        again(id);
    }

    private void again(String id) {
        find(id).ifPresent(run -> {
            run.close();
            Optional<Stop> pause = Optional.ofNullable(local.paused().get(id));
            begin(run.definition(), pause, pause.isPresent() ? Optional.empty() : Optional.of(open(run.definition())));
        });
    }

    /** A link threw what nobody expected: it is opened anew after a pause, so that nothing of its state is left. */
    private void openAgain(SourceRun run) {
        mending.schedule(
                () -> {
                    synchronized (this) {
                        if (run.equals(runs.get(run.definition().id()))) {
                            again(run.definition().id());
                        }
                    }
                },
                OPEN_AGAIN.toMillis(),
                TimeUnit.MILLISECONDS);
    }

    public List<SourceRun> all() {
        return List.copyOf(runs.values());
    }

    public Optional<SourceRun> find(String id) {
        return Optional.ofNullable(runs.get(id));
    }

    /** A sentence on why a tag cannot be written; empty where it can. */
    public String writeProblem(SourceDefinition source, TagInfo tag) {
        if (kind(source.link()).outside() && !source.writing()) {
            return "Writing to " + source.name() + " is off. An administrator switches it on at the source.";
        }
        if (!tag.writable()) {
            return tag.name() + " cannot be written: its source says that it is read only.";
        }
        return find(source.id())
                .filter(run -> run.status().state() == LinkState.PAUSED)
                .map(run -> source.name() + " is paused.")
                .orElse("");
    }

    /**
     * Writes a tag and reads it back.
     *
     * @param value of the type of the tag's kind
     * @throws LinkProblem with a sentence, where it may not be written, lies outside the range, or the source refused
     */
    public Written write(TagRef ref, Object value, String by) throws LinkProblem {
        SourceRun run = find(ref.source()).orElseThrow(() -> new LinkProblem("This source does not run."));
        TagInfo tag = run.definition()
                .tag(ref.address())
                .orElseThrow(() -> new LinkProblem("This tag is not taken from its source."));
        String problem = writeProblem(run.definition(), tag);
        if (!problem.isEmpty()) {
            throw new LinkProblem(problem);
        }
        if (tag.range().isPresent()
                && value instanceof Number number
                && !tag.range().get().contains(number.doubleValue())) {
            throw new LinkProblem(number + " lies outside the range of " + tag.name() + ", "
                    + tag.range().get().words() + ". Nothing was written.");
        }
        PlantLink link = run.link().orElseThrow();
        TagValue before = table.entry(ref).value();
        link.write(tag, value, LIMIT);
        run.wrote(ref.address(), new SourceRun.LastWrite(by, clock.now(), value));
        TagValue after = Optional.ofNullable(link.read(List.of(tag), LIMIT).get(ref.address()))
                .orElseGet(() -> new TagValue(Optional.empty(), Quality.WAITING, clock.now(), clock.now()));
        return new Written(value, before, after, same(value, after.value().orElse(null)));
    }

    /**
     * Publishes a message to a broker.
     *
     * @throws LinkProblem with a sentence, where it may not be, or the broker did not take it
     */
    public void publish(String source, String topic, String payload, boolean retained) throws LinkProblem {
        SourceRun run = find(source).orElseThrow(() -> new LinkProblem("This source does not run."));
        SourceDefinition definition = run.definition();
        if (kind(definition.link()).outside() && !definition.writing()) {
            throw new LinkProblem(
                    "Writing to " + definition.name() + " is off. An administrator switches it on at the source.");
        }
        run.link()
                .orElseThrow(() -> new LinkProblem(definition.name() + " is paused."))
                .publish(topic, payload, retained, LIMIT);
    }

    private static boolean same(Object asked, Object read) {
        if (asked instanceof Number a && read instanceof Number b) {
            double difference = Math.abs(a.doubleValue() - b.doubleValue());
            return difference <= Math.abs(a.doubleValue()) * 1e-6; // a float of 32 bits has seven digits
        }
        return asked.equals(read);
    }

    /** The source's own history of a tag, oldest first. */
    public List<TagValue> history(TagRef ref, Instant from, Instant to, int most) throws LinkProblem {
        SourceRun run = find(ref.source()).orElseThrow(() -> new LinkProblem("This source does not run."));
        TagInfo tag = run.definition()
                .tag(ref.address())
                .orElseThrow(() -> new LinkProblem("This tag is not taken from its source."));
        return run.link()
                .orElseThrow(() -> new LinkProblem(run.definition().name() + " is paused."))
                .history(tag, from, to, most);
    }

    @Override
    public void close() {
        close(LIMIT);
    }

    /** Closes all side by side; one that hangs is left behind. */
    public synchronized void close(Duration limit) {
        long until = System.nanoTime() + limit.toNanos();
        List<Thread> closing = runs.values().stream().map(SourceRun::end).toList();
        for (Thread each : closing) {
            try {
                each.join(Math.max(1, (until - System.nanoTime()) / 1_000_000));
            } catch (InterruptedException interrupted) {
                Thread.currentThread().interrupt();
            }
        }
        runs.clear();
        mending.shutdownNow();
    }
}
