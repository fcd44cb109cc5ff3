package dachshund.engine.transaction;

import dachshund.core.definition.Plant;
import dachshund.core.destination.StoreProblem;
import dachshund.core.ledger.Run;
import dachshund.core.shift.Worked;
import dachshund.core.time.PeriodText;
import dachshund.core.transaction.Gathered;
import dachshund.core.transaction.Over;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.transaction.Values;
import java.time.Instant;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Supplier;

/** What a run begins with of the time before it: over which times, and what the archive knows of them. */
final class Past {

    /** Beside the marks of a transaction, up to where its last run took values. */
    static final String LAST_RUN = "last run";

    private final Supplier<PastValues> archive;
    private final Supplier<Plant> plant;

    /**
     * @param archive null as long as there is none
     * @param plant   as it is now: its shifts
     */
    Past(Supplier<PastValues> archive, Supplier<Plant> plant) {
        this.archive = archive;
        this.plant = plant;
    }

    /** Says up to where the last run took values. */
    interface LastRun {
        Optional<Instant> at() throws StoreProblem;
    }

    static Optional<Instant> read(Optional<String> left) {
        return left.map(Instant::parse);
    }

    /**
     * Computes what a design asks for.
     *
     * @param at       the instant of the trigger: no later value counts
     * @param given    names of what is known already
     * @param values   gets the results, and where their times began
     * @param snapshot gets them in words
     * @return why the run cannot go on, in a sentence; empty where it can
     * @throws StoreProblem where the archive or the database does not answer now
     */
    String into(
            TransactionDefinition design,
            Instant at,
            Set<String> given,
            LastRun last,
            Map<String, Object> values,
            Map<String, Run.Read> snapshot)
            throws StoreProblem {
        for (Gathered each : design.gathers()) {
            if (each.over().isEmpty() || given.contains(each.name())) {
                continue;
            }
            Over over = each.over().get();
            Optional<PastValues.Held> time = time(over, at, last);
            Object value =
                    time.isEmpty() || !time.get().from().isBefore(time.get().to())
                            ? null
                            : archive()
                                    .computed(
                                            each.tag(),
                                            over.what(),
                                            time.get().from(),
                                            time.get().to());
            Instant from = time.map(PastValues.Held::from).orElse(null);
            Instant to = time.map(PastValues.Held::to).orElse(at);
            values.put(each.name(), value);
            values.put(each.name() + Gathered.SINCE, from);
            snapshot.put(each.name(), new Run.Read(Values.words(value), to, ""));
            snapshot.put(each.name() + Gathered.SINCE, new Run.Read(Values.words(from), to, ""));
            if (value == null && each.bad() == Gathered.WhenBad.FAIL) {
                return each.name() + " has no value: "
                        + (from == null ? none(over) : "nothing good is kept from " + from + " to " + to + ".");
            }
        }
        return "";
    }

    private static String none(Over over) {
        return switch (over.since()) {
            case SHIFT -> "no shift is worked at this instant.";
            case BEFORE ->
                "the tag that says when its time began had no other value in the last "
                        + PeriodText.write(over.longest()) + ".";
            default -> "the tag that says when its time began has no value.";
        };
    }

    private Optional<PastValues.Held> time(Over over, Instant at, LastRun last) throws StoreProblem {
        Instant first = at.minus(over.longest());
        return switch (over.since()) {
            case LENGTH -> Optional.of(new PastValues.Held(first, at));
            case LAST_RUN ->
                Optional.of(new PastValues.Held(later(first, last.at().orElse(first)), at));
            case SHIFT ->
                plant.get()
                        .shifts()
                        .at(at, plant.get().zone())
                        .map(Worked::from)
                        .map(from -> new PastValues.Held(later(first, from), at));
            case SAME, BEFORE ->
                archive().held(over.marker().orElseThrow(), at, over.since() == Over.Since.BEFORE, over.longest());
        };
    }

    private PastValues archive() throws StoreProblem {
        PastValues values = archive.get();
        if (values == null) {
            throw new StoreProblem(StoreProblem.Kind.AWAY, -1, "The archive cannot be asked yet.", null);
        }
        return values;
    }

    private static Instant later(Instant one, Instant other) {
        return one.isAfter(other) ? one : other;
    }
}
