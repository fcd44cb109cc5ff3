package dachshund.office.archive;

import dachshund.core.archive.ArchiveStore.Block;
import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.archive.ArchiveStore.Tag;
import dachshund.core.archive.Arrivals;
import dachshund.core.archive.KeptFor;
import dachshund.core.archive.Marks;
import dachshund.core.archive.Series;
import dachshund.core.archive.TagKey;
import dachshund.core.keep.KeepingRuleDefinition;
import dachshund.core.source.LinkProblem;
import dachshund.core.tag.TagValue;
import dachshund.core.time.OpcUaTime;
import dachshund.core.time.PeriodText;
import dachshund.core.time.PlantClock;
import dachshund.engine.Engine;
import dachshund.engine.archive.Archive.Hole;
import dachshund.engine.said.Said;
import dachshund.engine.source.SourceRun;
import dachshund.engine.thread.Threads;
import dachshund.engine.thread.Worker;
import dachshund.office.own.OwnDatabase;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.springframework.context.event.ContextClosedEvent;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;

/**
 * Fills holes of the archive from the history that sources keep themselves: after the application or a source was away, the
 * values of that time are read, marked as filled, and stored. What cannot be filled stays a gap, and both are said. It asks
 * one tag after the other, so that a source that comes back is not asked for everything at once.
 */
@Component
public class Filling {

    private static final long LOOK_NANOS = 2_000_000_000L;
    private static final long BETWEEN_NANOS = 20_000_000L;
    private static final Duration STOP = Duration.ofSeconds(1);
    private static final int AT_ONCE = 5_000;
    /** Of one hole of one tag. */
    private static final int MOST = 1_000_000;

    private static final int SOME = 100;

    private final BlockTable table;
    private final Engine engine;
    private final PlantClock clock;
    private final OwnDatabase database;
    private final Said said = new Said();
    private final List<Hole> waiting = new ArrayList<>();
    /** What came of the present ones, by source. */
    private final Map<String, Outcome> outcomes = new LinkedHashMap<>();

    private long told;
    private Worker worker;

    private static final class Outcome {
        private long tags;
        private long filled;
        private long values;
        private long longest;
        private String why = "";
    }

    Filling(BlockTable table, Engine engine, PlantClock clock, OwnDatabase database) {
        this.table = table;
        this.engine = engine;
        this.clock = clock;
        this.database = database;
    }

    /** From now on holes are filled. */
    public synchronized void begin() {
        if (worker == null) {
            worker = Threads.start("archive-filling", this::step);
        }
    }

    private long step() {
        if (!database.answers()) {
            return LOOK_NANOS;
        }
        if (waiting.isEmpty()) {
            waiting.addAll(engine.archive().holes(SOME));
        }
        if (waiting.isEmpty()) {
            tell();
            return LOOK_NANOS;
        }
        Hole hole = waiting.get(0);
        try {
            fill(hole);
            waiting.remove(0);
            return BETWEEN_NANOS;
        } catch (Problem away) {
            said.note(clock.now(), away.getMessage()); // the same hole again, when the database answers
            return LOOK_NANOS;
        } catch (RuntimeException | Error defect) {
            waiting.remove(0);
            outcome(hole).why = "unexpectedly: " + Threads.words(defect);
            Threads.report(defect);
            return BETWEEN_NANOS;
        }
    }

    private Outcome outcome(Hole hole) {
        return outcomes.computeIfAbsent(hole.tag().source(), source -> new Outcome());
    }

    private void fill(Hole hole) throws Problem {
        Outcome outcome = outcome(hole);
        outcome.tags++;
        outcome.longest = Math.max(outcome.longest, hole.until() - hole.since());
        try {
            long values = read(hole);
            outcome.values += values;
            outcome.filled += values > 0 ? 1 : 0;
        } catch (LinkProblem cannot) {
            outcome.why = cannot.getMessage();
        }
    }

    private long read(Hole hole) throws LinkProblem, Problem {
        Instant from = OpcUaTime.toInstant(hole.since());
        Instant until = OpcUaTime.toInstant(hole.until());
        long key = TagKey.of(hole.tag());
        long filled = 0;
        while (filled < MOST) {
            List<TagValue> some = engine.sources().history(hole.tag(), from, until, AT_ONCE);
            List<Block> blocks = Block.of(key, within(some, hole));
            long values = blocks.stream().mapToLong(Block::values).sum();
            if (values > 0) {
                KeptFor lasting = engine.archive()
                        .ruleOf(hole.tag())
                        .map(KeepingRuleDefinition::keptFor)
                        .orElse(KeptFor.EVER);
                table.bringIn("filled", blocks, List.of(new Tag(key, hole.tag(), hole.name(), lasting)));
            }
            filled += values;
            Instant last = some.isEmpty() ? until : some.get(some.size() - 1).sourceTime();
            if (some.size() < AT_ONCE || !last.isAfter(from)) {
                return filled;
            }
            from = last.plusNanos(100);
        }
        return filled;
    }

    /** Only what lies within the hole: what was there before and comes behind it was recorded. */
    private static Series within(List<TagValue> values, Hole hole) {
        Arrivals within = new Arrivals();
        for (TagValue value : values) {
            long time = OpcUaTime.toTicks(value.sourceTime());
            if (time > hole.since() && time < hole.until()) {
                Object kept = Series.kept(value.value());
                within.add(time, kept, Marks.filled(Marks.of(value.quality(), kept != null)));
            }
        }
        return within.series();
    }

    /** Once all that was known is done, what came of it, a sentence for each source. */
    private void tell() {
        outcomes.forEach((source, outcome) -> {
            String name = engine.sources()
                    .find(source)
                    .map(SourceRun::definition)
                    .map(definition -> definition.name())
                    .orElse("A source that is gone");
            String time = PeriodText.roughly(Duration.ofMillis(outcome.longest / 10_000));
            long open = outcome.tags - outcome.filled;
            StringBuilder words = new StringBuilder(
                    name + ": nothing came of " + count(outcome.tags, "tag") + " for up to " + time + ". ");
            if (outcome.filled > 0) {
                words.append("Of ")
                        .append(outcome.filled)
                        .append(" the source's own history had ")
                        .append(count(outcome.values, "value"))
                        .append("; they are filled in. ");
            }
            if (open > 0) {
                words.append("Of ")
                        .append(open)
                        .append(" the gap stays")
                        .append(
                                outcome.why.isEmpty()
                                        ? ": their history has nothing of that time."
                                        : ": " + outcome.why);
            }
            said.note(clock.now(), words.toString().strip());
        });
        outcomes.clear();
        long forgotten = engine.archive().holesForgotten();
        if (forgotten > told) {
            said.note(clock.now(), (forgotten - told) + " gaps were too many to be looked after, and stay.");
            told = forgotten;
        }
    }

    private static String count(long n, String word) {
        return n + " " + word + (n == 1 ? "" : "s");
    }

    /** What was filled and what was not, newest first. */
    public List<Said.Line> said() {
        return said.lines();
    }

    @EventListener(ContextClosedEvent.class)
    synchronized void end() {
        if (worker != null) {
            worker.close(STOP);
        }
    }
}
