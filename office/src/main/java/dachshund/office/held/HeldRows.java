package dachshund.office.held;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.row.Made;
import dachshund.core.row.Redesign;
import dachshund.core.row.Row;
import dachshund.core.work.Progress;
import dachshund.engine.Engine;
import dachshund.engine.lane.DestinationWriter;
import dachshund.engine.lane.HeldRow;
import dachshund.engine.lane.LaneDesign;
import dachshund.office.definition.Definitions;
import java.time.Duration;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.function.Predicate;
import org.springframework.stereotype.Component;

/** The rows that a recorder holds for one destination: read, and rehearsed under the design that is released. */
@Component
public class HeldRows {

    /** So many are read in one question to the writer, which answers between two writes. */
    public static final int AT_ONCE = 1_000;

    /** So many are rehearsed while a page waits. */
    public static final int SHOWN = 5_000;

    /** Reasons that are told apart. */
    private static final int REASONS = 200;

    private static final String OTHER_REASONS = "other reasons";

    /** How long the writer may be in a call to its destination before a page, or long work, gives up. */
    private static final Duration PAGE_WAITS = Duration.ofSeconds(3);

    private static final Duration WORK_WAITS = Duration.ofMinutes(2);

    private final Definitions definitions;
    private final Engine engine;
    /** The last rehearsals of all rows, by lane. */
    private final Map<String, Rehearsed> whole = new ConcurrentHashMap<>();

    /** The writer is in a call to its destination and has not come to the question. */
    public static final class Busy extends RuntimeException {
        private static final long serialVersionUID = 1;

        private Busy(Duration waited) {
            super("The destination is being written to and has not come to this in " + waited.toSeconds()
                    + " s. Nothing was changed; look again in a moment.");
        }
    }

    /**
     * What would become of held rows under the released design.
     *
     * @param settled the first row is the one behind this running number
     * @param upTo    running number of the last row that was on disk when it began; what came later is not looked at
     * @param all     whether every row up to that one was looked at, and not the first ones alone
     * @param looked  how many were looked at, from the first on
     * @param fit     of these, the ones that would be written
     * @param aside   why the others would be set aside, and how many each
     * @param lost    columns that the released design has no place for
     * @param first   the first row that would be written, as it would be
     * @param other   whether any was made under another design than the released one
     * @param under   the released design; empty where there is none
     * @param refusal why they cannot be given to it; empty where they can
     */
    public record Rehearsed(
            long settled,
            long upTo,
            boolean all,
            long looked,
            long fit,
            Map<String, Long> aside,
            Set<String> lost,
            Optional<Row> first,
            boolean other,
            Optional<RecorderDefinition> under,
            String refusal) {}

    HeldRows(Definitions definitions, Engine engine) {
        this.definitions = definitions;
        this.engine = engine;
    }

    private DestinationWriter writer(String destination) {
        return engine.writer(destination).orElseThrow();
    }

    /**
     * Some of them, in order.
     *
     * @param after only such of a higher running number
     * @throws Busy where the writer does not come to it while a page waits
     */
    public List<HeldRow> some(String recorder, String destination, long after, int most) {
        return some(recorder, destination, after, most, PAGE_WAITS);
    }

    private List<HeldRow> some(String recorder, String destination, long after, int most, Duration wait) {
        try {
            return writer(destination).held(recorder, after, most).get(wait.toMillis(), TimeUnit.MILLISECONDS);
        } catch (TimeoutException busy) {
            throw new Busy(wait);
        } catch (ExecutionException failed) {
            throw new IllegalStateException("The rows that are held could not be read.", failed.getCause());
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
            throw new Busy(wait);
        }
    }

    /** The recorder as it is released, with its one Where for the destination; empty where it writes there no more. */
    public Optional<RecorderDefinition> released(String recorder, String destination) {
        return definitions
                .live(recorder)
                .filter(RecorderDefinition.class::isInstance)
                .map(RecorderDefinition.class::cast)
                .flatMap(design -> design.wheres().stream()
                        .filter(where -> where.destination().equals(destination))
                        .findFirst()
                        .map(where -> design.withWheres(List.of(where))));
    }

    /** Of the first rows, or of all where all were looked at and are still what is held. */
    public Rehearsed rehearsed(String recorder, String destination) {
        Optional<RecorderDefinition> released = released(recorder, destination);
        Rehearsed known = whole.get(key(recorder, destination));
        if (known != null
                && known.under().equals(released)
                && known.settled() == writer(destination).settled(recorder)) {
            return known;
        }
        return rehearse(recorder, destination, last(recorder, destination), PAGE_WAITS, looked -> looked < SHOWN);
    }

    /** Running number of the last row that is on disk. */
    public long last(String recorder, String destination) {
        return writer(destination).last(recorder);
    }

    /**
     * All of them that are on disk when it begins; kept until another release, or until rows are given or discarded.
     *
     * @param progress told how far it is; may end it
     */
    public Rehearsed rehearseAll(String recorder, String destination, long upTo, Progress progress) {
        long waiting = writer(destination)
                .status(recorder)
                .map(lane -> lane.account().waiting())
                .orElse(0L);
        progress.step("Rehearsing rows", waiting, true);
        Rehearsed done = rehearse(recorder, destination, upTo, WORK_WAITS, looked -> {
            progress.done(Math.min(looked, waiting));
            return true;
        });
        whole.put(key(recorder, destination), done);
        return done;
    }

    /** What was rehearsed is true no more. */
    private void forget(String recorder, String destination) {
        whole.remove(key(recorder, destination));
    }

    private static String key(String recorder, String destination) {
        return recorder + " " + destination;
    }

    private Rehearsed rehearse(String recorder, String destination, long upTo, Duration wait, Predicate<Long> goOn) {
        long settled = writer(destination).settled(recorder);
        Rehearsing rehearsing = new Rehearsing(released(recorder, destination));
        long after = 0;
        boolean more = true;
        while (more && goOn.test(rehearsing.looked)) {
            List<HeldRow> page = some(recorder, destination, after, AT_ONCE, wait);
            for (HeldRow row : page) {
                if (row.nth() <= upTo) {
                    rehearsing.look(row);
                }
                after = row.nth();
            }
            more = !page.isEmpty() && after < upTo;
        }
        return rehearsing.result(settled, upTo, !more);
    }

    /** One rehearsal: row by row. */
    private final class Rehearsing {

        private final Optional<RecorderDefinition> released;
        private final Map<Long, Redesign> ways = new HashMap<>();
        private final Map<String, Long> aside = new LinkedHashMap<>();
        private final Set<String> lost = new LinkedHashSet<>();
        private Optional<Row> first = Optional.empty();
        private String refusal;
        private boolean other;
        private long looked;
        private long fit;

        Rehearsing(Optional<RecorderDefinition> released) {
            this.released = released;
            this.refusal = released.isPresent() ? "" : "No released design of this recorder writes here any more.";
        }

        void look(HeldRow row) {
            looked++;
            if (released.isEmpty()) {
                return;
            }
            if (row.row().isEmpty() || row.design().isEmpty()) {
                aside(row.problem());
                return;
            }
            Made result = way(row.design().get()).of(row.row().get());
            if (result instanceof Made.Whole whole) {
                fit++;
                first = first.isEmpty() ? Optional.of(whole.row()) : first;
            } else if (result instanceof Made.Refused refused) {
                aside(refused.reason());
            }
        }

        private void aside(String reason) {
            aside.merge(aside.size() < REASONS || aside.containsKey(reason) ? reason : OTHER_REASONS, 1L, Long::sum);
        }

        private Redesign way(LaneDesign made) {
            Redesign known = ways.get(made.key());
            if (known != null) {
                return known;
            }
            RecorderDefinition design = released.orElseThrow();
            Where where = design.wheres().get(0);
            Where before = made.recorder().wheres().get(0);
            if (where.place().dynamic() && !where.place().equals(before.place())) {
                refusal = "Where rows go is made of their values, and the pattern is another one now: " + before.table()
                        + " was the one they were made for. Take them away as CSV.";
            }
            other = other || !LaneDesign.of(design).equals(made);
            Redesign way = new Redesign(made.recorder().layout(), design.layout(), engine.zone());
            lost.addAll(way.lost());
            ways.put(made.key(), way);
            return way;
        }

        Rehearsed result(long settled, long upTo, boolean all) {
            return new Rehearsed(settled, upTo, all, looked, fit, aside, lost, first, other, released, refusal);
        }
    }

    /**
     * What was rehearsed is written as the design it was rehearsed under would have made it.
     *
     * @throws IllegalArgumentException with a sentence, where another design was released since
     */
    public void give(String recorder, String destination, Rehearsed rehearsed) {
        if (!rehearsed.under().equals(released(recorder, destination))) {
            throw new IllegalArgumentException(
                    "Another design was released while the rows were rehearsed. Nothing was given; look at what would become of them now.");
        }
        writer(destination).give(recorder, rehearsed.upTo(), rehearsed.under().orElseThrow(), engine.zone());
        forget(recorder, destination);
    }

    /** Up to one of them, the rows are never written. */
    public void discard(String recorder, String destination, long upTo) {
        writer(destination).discard(recorder, upTo);
        forget(recorder, destination);
    }
}
