package dachshund.engine.archive;

import dachshund.core.archive.ArchiveStore;
import dachshund.core.archive.ArchiveStore.Counts;
import dachshund.core.archive.Column;
import dachshund.core.archive.Marks.Gap;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.Plant;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.keep.Assigned;
import dachshund.core.keep.KeepingRuleDefinition;
import dachshund.core.tag.TagRef;
import dachshund.core.time.OpcUaTime;
import dachshund.core.time.PlantClock;
import dachshund.engine.clock.ClockDoubt;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.live.AtWork;
import dachshund.engine.local.LocalStore;
import dachshund.engine.said.Said;
import dachshund.engine.tag.TagTable;
import dachshund.engine.thread.Threads;
import dachshund.engine.thread.Worker;
import java.nio.file.Path;
import java.time.Duration;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;

/**
 * The archive at work: rules that keep values, a journal that holds them, and what brings them to a store. It records from the
 * first moment, whether the store answers or not. Safe for many threads.
 */
public final class Archive implements AtWork<KeepingRuleDefinition>, AutoCloseable {

    private static final String NAME = "archive";
    private static final String RUN = "archive run";
    private static final long LOOK_NANOS = 250_000_000L;
    private static final Duration STOP = Duration.ofSeconds(1);

    private final TagTable tags;
    private final PlantClock clock;
    private final SegmentJournal journal;
    private final Storing storing;
    private final Said said = new Said();
    private final long run;
    private final Worker alive;
    private final Worker worker;
    private final ClockDoubt doubts;
    private volatile boolean doubted;
    private volatile Map<String, Keeping> byRule = Map.of();
    private volatile Assigned assigned = Assigned.of(List.of(), List.of(), List.of());

    /**
     * How a rule stands.
     *
     * @param tags    how many it keeps
     * @param trouble of how many of them values were refused since the start
     * @param counts  what became of values since the start
     */
    public record RuleStatus(KeepingRuleDefinition rule, int tags, long trouble, Counts counts) {}

    public Archive(Path folder, SegmentJournal.Limits limits, TagTable tags, PlantClock clock, LocalStore local) {
        this(folder, limits, tags, clock, local, Storing.EVERY_NANOS);
    }

    /** @param every between two times to store */
    /**
     * A time over which nothing came of a tag that is kept, since the application or its source was away.
     *
     * @param name  of the tag, as people call it
     * @param since the last that was known, in ticks
     * @param until time of the next value
     */
    public record Hole(TagRef tag, String name, long since, long until) {}

    public Archive(
            Path folder, SegmentJournal.Limits limits, TagTable tags, PlantClock clock, LocalStore local, long every) {
        this.tags = tags;
        this.clock = clock;
        Map.Entry<String, Long> known = local.journal(NAME);
        this.journal = new SegmentJournal(
                folder,
                limits,
                local.installation(),
                new SegmentJournal.Known(known.getKey(), known.getValue()),
                () -> {});
        local.knowsJournal(NAME, journal.id());
        // Later than any run before, whatever the clock says.
        long before = local.remembered(RUN).map(Long::parseLong).orElse(0L);
        this.run = Math.max(before + 1, OpcUaTime.toTicks(clock.now()));
        local.remember(RUN, Long.toString(run));
        this.storing = new Storing(journal, clock, said, every, new RefusedValues(folder.resolve("refused")));
        this.worker = Threads.start("archive", storing::step);
        this.doubts = new ClockDoubt(clock, local);
        this.doubted = doubts.doubt().isPresent();
        this.alive = Threads.start("archive-alive", () -> {
            doubted = doubts.doubt().isPresent();
            byRule.values().forEach(Keeping::signOfLife);
            return LOOK_NANOS;
        });
    }

    /** Whether the machine's clock is not believed, as of a moment ago. */
    boolean isClockDoubted() {
        return doubted;
    }

    /** From now on values are stored there. */
    public void storeIn(ArchiveStore store) {
        storing.storeIn(store);
    }

    @Override
    public Class<KeepingRuleDefinition> type() {
        return KeepingRuleDefinition.class;
    }

    /** Drafted sources that are only looked at have no history. */
    @Override
    public boolean liveOnly() {
        return true;
    }

    @Override
    public synchronized void changeover(List<KeepingRuleDefinition> live, Plant plant) {
        Assigned next = Assigned.of(live, plant.all(SourceDefinition.class), plant.all(EquipmentDefinition.class));
        Map<String, Keeping> before = byRule;
        Map<String, Keeping> after = new LinkedHashMap<>();
        for (KeepingRuleDefinition rule : live) {
            List<Assigned.Tag> theirs = next.of(rule.id());
            Keeping had = before.get(rule.id());
            after.put(
                    rule.id(),
                    had != null && same(had, rule, theirs)
                            ? had
                            : new Keeping(rule, theirs, journal, run, clock, this::isClockDoubted, said));
        }
        Set<TagRef> kept = next.tags();
        // The new ones listen before the old ones stop: a tag may go from one rule to another, and what both hear is
        // there once.
        after.forEach((id, now) -> {
            if (!now.equals(before.get(id))) {
                tags.replace(List.of(), null, refs(now), now, now::begin);
            }
        });
        before.forEach((id, had) -> {
            if (!had.equals(after.get(id))) {
                tags.unwatch(refs(had), had);
                // What no rule keeps any more ends in a gap.
                had.leave(refs(had).stream().filter(tag -> !kept.contains(tag)).toList(), Gap.NO_RULE);
            }
        });
        byRule = Map.copyOf(after);
        assigned = next;
    }

    private static boolean same(Keeping had, KeepingRuleDefinition rule, List<Assigned.Tag> theirs) {
        return had.rule().equals(rule) && facts(had.tags()).equals(facts(theirs));
    }

    /** All that decides what is kept of tags. */
    private static List<Object> facts(List<Assigned.Tag> tags) {
        return tags.stream()
                .<Object>map(each -> List.of(
                        each.ref(),
                        each.info().range(),
                        each.source().name(),
                        each.info().fullName()))
                .toList();
    }

    private static Collection<TagRef> refs(Keeping keeping) {
        return keeping.tags().stream().map(Assigned.Tag::ref).toList();
    }

    @Override
    public void tryOut(KeepingRuleDefinition definition, Plant plant) {
        Assigned.of(List.of(definition), plant.all(SourceDefinition.class), plant.all(EquipmentDefinition.class));
    }

    @Override
    public String refused(String id) {
        return "";
    }

    /** How a live rule stands; empty where it is not at work. */
    public Optional<RuleStatus> status(String rule) {
        return Optional.ofNullable(byRule.get(rule))
                .map(keeping ->
                        new RuleStatus(keeping.rule(), keeping.tags().size(), keeping.refusedTags(), keeping.counts()));
    }

    /** Values that were kept since the start, by all rules. */
    public long kept() {
        return byRule.values().stream().mapToLong(each -> each.counts().kept()).sum();
    }

    /** Which rule keeps which tag. */
    public Assigned assigned() {
        return assigned;
    }

    /** The rule that keeps a tag. */
    public Optional<KeepingRuleDefinition> ruleOf(TagRef tag) {
        return Optional.ofNullable(assigned.ruleOf(tag))
                .map(byRule::get)
                .filter(Objects::nonNull)
                .map(Keeping::rule);
    }

    /** What of a tag is on its way to the store: pieces in the order of their times, the later made one last. */
    public List<Column> tail(TagRef tag) {
        return storing.tail(tag);
    }

    /**
     * Waits until all that was heard so far can be asked for.
     *
     * @return whether it can be, within the limit
     */
    public boolean heardSoFar(Duration limit) {
        long end = storing.heard();
        worker.wake();
        return storing.readUpTo(end, limit);
    }

    /** Whether all that was heard so far is on disk for certain. */
    boolean isOnDisk() {
        return journal.durable() >= journal.end();
    }

    /** Stores what is there as soon as it can. */
    public void storeNow() {
        storing.storeNow();
    }

    /** Why values do not come to the store, in a sentence; empty where they do. */
    public String trouble() {
        return storing.trouble();
    }

    /** How many values were stored since the start. */
    public long stored() {
        return storing.stored();
    }

    /** Entries that could not be read back, in a sentence each. */
    public List<String> damage() {
        return journal.damage();
    }

    /** Some of the holes that are over, the oldest first; each is given once. */
    public List<Hole> holes(int most) {
        return storing.holes().take(most);
    }

    /** Holes that nobody took, because there were too many. */
    public long holesForgotten() {
        return storing.holes().lost();
    }

    /** What it said lately, newest first. */
    public List<Said.Line> said() {
        return said.lines();
    }

    /** What was heard is in the journal; it is stored after the next start. */
    @Override
    public void close() {
        alive.close(STOP);
        new HashMap<>(byRule).values().forEach(each -> {
            tags.unwatch(refs(each), each);
            each.signOfLife();
        });
        worker.close(STOP);
        journal.close();
    }
}
