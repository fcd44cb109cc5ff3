package dachshund.engine.recorder;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.row.RowId;
import dachshund.core.row.Snapshot;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PlantClock;
import dachshund.core.when.Confirmation;
import dachshund.core.when.When;
import dachshund.engine.answer.Answering;
import dachshund.engine.answer.Asked;
import dachshund.engine.answer.PlantSide;
import dachshund.engine.lane.DestinationWriter;
import dachshund.engine.local.LocalStore;
import dachshund.engine.local.SetAside;
import dachshund.engine.local.TakenRequests.Last;
import dachshund.engine.local.TakenRequests.Taken;
import dachshund.engine.said.Said;
import dachshund.engine.thread.Threads;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.locks.LockSupport;
import java.util.concurrent.locks.ReentrantLock;
import java.util.function.BooleanSupplier;
import java.util.function.Function;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * The rows of one recorder that the plant asks for by a number: each is recorded once, whatever dies in between, and the plant is
 * told what became of it. What is made happens on the recorder's strand; waiting and telling on a thread of its own.
 */
final class ConfirmedRows {

    /** Texts for the plant are cut to so many letters. */
    private static final int LONGEST_TEXT = 80;

    private static final Duration SOON = Duration.ofSeconds(1);
    private static final long LOOKS_SOON_NANOS = 5_000_000;
    private static final long LOOKS_NANOS = 50_000_000;
    private static final long AGAIN_NANOS = 1_000_000_000;
    /** A row that is waited for longer is said. */
    private static final Duration LONG = Duration.ofSeconds(5);

    private final RecorderDefinition design;
    private final Confirmation confirms;
    private final When.OnRequest request;
    private final List<TagRef> reads;
    private final Function<String, Optional<DestinationWriter>> writers;
    private final LocalStore local;
    private final With with;
    private final Answering.Into into;
    private final Said said;
    private final PlantClock clock;
    /** Of the strand alone; null before the first look. */
    private Last last;

    private volatile String waits = "";

    /**
     * What it tells the plant with.
     *
     * @param telling held by whoever tells the plant, under whichever design of the recorder: what is told later comes later
     * @param ends    whether nobody is waited for any more: the application stops, or another design goes on from here
     */
    record With(PlantSide plant, ReentrantLock telling, BooleanSupplier ends) {}

    /** @param reads tags whose values a snapshot has, in their order: {@link #reads} among them */
    ConfirmedRows(
            RecorderDefinition design,
            List<TagRef> reads,
            Function<String, Optional<DestinationWriter>> writers,
            LocalStore local,
            With with,
            Said said,
            PlantClock clock) {
        this.design = design;
        this.confirms = design.confirms().orElseThrow();
        this.request = design.request().orElseThrow();
        this.reads = reads;
        this.writers = writers;
        this.local = local;
        this.with = with;
        this.said = said;
        this.clock = clock;
        this.into = new Answering.Into(design.name(), design.request(), confirms.code(), confirms.text());
    }

    /** Whether a recorder has any. */
    static boolean has(RecorderDefinition design) {
        return design.confirms().isPresent() && design.request().isPresent();
    }

    /** The tags of the request, behind those that the row is made of. */
    static List<TagRef> reads(RecorderDefinition design, List<TagRef> ofTheRow) {
        return has(design)
                ? Stream.concat(
                                ofTheRow.stream(),
                                design.request()
                                        .map(each -> Stream.concat(Stream.of(each.number()), each.epoch().stream()))
                                        .orElseThrow())
                        .distinct()
                        .toList()
                : ofTheRow;
    }

    /** Why the plant is not told yet, in words; empty where it is. */
    String waits() {
        return waits;
    }

    /**
     * First of all on the strand: what a death left between here and a journal is not there. Later other rows have the running numbers
     * that these were to have.
     */
    void look() {
        if (last == null) {
            Last found = local.takenRequests().last(design.id());
            last = found.with(found.rows().stream().filter(this::there).toList());
        }
    }

    private boolean there(Taken row) {
        return writers.apply(row.destination())
                .map(writer -> row.nth() <= writer.last(design.id()))
                .orElse(true);
    }

    /** The request that a snapshot was taken for. */
    Optional<Asked> asked(Snapshot values) {
        return Asked.of(request, tag -> value(values.lastGood(), tag));
    }

    private TagValue value(TagValue[] of, TagRef tag) {
        return of[reads.indexOf(tag)];
    }

    /** Whether its rows were made before; then the plant is only told again. */
    boolean recorded(Asked asked) {
        look();
        if (!last.request().equals(asked.identity()) || !last.whole()) {
            return false;
        }
        tell(asked, List.of());
        return true;
    }

    /**
     * Before any of its rows is put into a journal.
     *
     * @param aside rows that did not fit and were set aside, by destination
     * @param whole rows to be written, by destination
     * @return whether a row, given by destination and identity, is still to be handed on
     */
    Lacking begin(Asked asked, Map<String, List<RowId>> aside, Map<String, List<RowId>> whole) {
        look();
        List<Taken> rows = new ArrayList<>(last.request().equals(asked.identity()) ? last.rows() : List.of());
        int planned = Stream.of(aside, whole)
                .flatMap(each -> each.values().stream())
                .mapToInt(List::size)
                .sum();
        Map<String, List<RowId>> lacking = new HashMap<>();
        aside.forEach((destination, ids) -> ids.stream()
                .filter(id -> !has(rows, destination, id))
                .forEach(id -> rows.add(new Taken(destination, id.line(), id.toString(), 0))));
        whole.forEach((destination, ids) -> {
            long nth = writers.apply(destination)
                    .map(writer -> writer.last(design.id()))
                    .orElse(0L);
            for (RowId id : ids) {
                if (!has(rows, destination, id)) {
                    nth++;
                    rows.add(new Taken(destination, id.line(), id.toString(), nth));
                    lacking.computeIfAbsent(destination, each -> new ArrayList<>())
                            .add(id);
                }
            }
        });
        last = new Last(asked.identity(), planned, List.copyOf(rows));
        local.takenRequests().keep(design.id(), last);
        return (destination, id) -> lacking.getOrDefault(destination, List.of()).contains(id);
    }

    /** Which rows of a request are still to be handed on. */
    @FunctionalInterface
    interface Lacking {
        boolean of(String destination, RowId id);
    }

    private static boolean has(List<Taken> rows, String destination, RowId id) {
        return rows.stream().anyMatch(row -> row.destination().equals(destination) && row.line() == id.line());
    }

    /** One of its rows was not taken, or could not be made: asked for again, it is tried again. */
    void refused(String destination, RowId id) {
        last = last.with(last.rows().stream()
                .filter(row ->
                        !row.destination().equals(destination) || !row.rowId().equals(id.toString()))
                .toList());
        local.takenRequests().keep(design.id(), last);
    }

    /**
     * Tells the plant as soon as it is known what became of the rows.
     *
     * @param refused why some of them are nowhere; none where all were taken
     */
    void tell(Asked asked, List<String> refused) {
        List<Taken> rows = last == null ? List.of() : last.rows();
        Threads.once("confirm-" + design.id(), () -> {
            while (!with.ends().getAsBoolean() && !isTold(asked, rows, refused)) {
                LockSupport.parkNanos(AGAIN_NANOS);
            }
            waits = "";
        });
    }

    /** Whether nobody has to come back to it; whatever fails on the way is said, and tried again. */
    private boolean isTold(Asked asked, List<Taken> rows, List<String> refused) {
        try {
            told(asked, rows, refused);
            return true;
        } catch (RuntimeException | Error thrown) {
            Threads.report(thrown);
            waits = "The plant cannot be told of " + asked.words() + ", and this is tried again: "
                    + Threads.words(thrown) + ".";
            said.note(clock.now(), waits);
            return false;
        }
    }

    private void told(Asked asked, List<Taken> rows, List<String> refused) {
        Answering answering = new Answering(into, asked.number(), with.plant(), with.ends());
        String why = String.join(" ", refused);
        if (why.isEmpty()) {
            if (!known(asked, rows, answering)) {
                return;
            }
            why = rows.stream()
                    .map(this::notSo)
                    .filter(each -> !each.isEmpty())
                    .distinct()
                    .collect(Collectors.joining(" "));
        }
        String became;
        if (!hasTheFloor(answering)) {
            return;
        }
        try {
            became = answering.give(
                    why.isEmpty() ? confirms.done() : confirms.failed(),
                    why.length() > LONGEST_TEXT ? why.substring(0, LONGEST_TEXT - 1) + "…" : why,
                    cannot -> waits =
                            cannot.isEmpty() ? "" : "The plant cannot be told of " + asked.words() + ": " + cannot);
        } finally {
            with.telling().unlock();
        }
        if (!why.isEmpty() || !became.equals("given")) {
            said.note(
                    clock.now(),
                    "Confirmation of " + asked.words() + ": "
                            + (why.isEmpty() ? confirms.of().words() + "." : why) + " "
                            + Character.toUpperCase(became.charAt(0)) + became.substring(1)
                            + (became.endsWith(".") ? "" : "."));
        }
    }

    /** Waits until nobody else tells the plant; false where nobody waits for it any more, so that they are not many. */
    private boolean hasTheFloor(Answering answering) {
        try {
            while (!with.telling().tryLock(LOOKS_NANOS, TimeUnit.NANOSECONDS)) {
                if (with.ends().getAsBoolean() || answering.superseded()) {
                    return false;
                }
            }
            return true;
        } catch (InterruptedException stopped) {
            Thread.currentThread().interrupt();
            return false;
        }
    }

    /** Waits until it is known of all rows; false where nobody waits for it any more. */
    private boolean known(Asked asked, List<Taken> rows, Answering answering) {
        Map<DestinationWriter, Long> ends = new HashMap<>();
        rows.forEach(
                row -> writers.apply(row.destination()).ifPresent(writer -> ends.putIfAbsent(writer, writer.end())));
        long begun = System.nanoTime();
        while (!(confirms.of() == Confirmation.Of.SAFE
                ? safe(ends)
                : rows.stream().allMatch(this::settled))) {
            if (with.ends().getAsBoolean() || answering.superseded()) {
                return false;
            }
            long nanos = System.nanoTime() - begun;
            if (nanos > LONG.toNanos()) {
                waits = "The row of " + asked.words() + " is not known to be "
                        + (confirms.of() == Confirmation.Of.SAFE ? "safe on disk" : "in its tables")
                        + " yet; the plant is told when it is.";
            }
            LockSupport.parkNanos(nanos < SOON.toNanos() ? LOOKS_SOON_NANOS : LOOKS_NANOS);
        }
        return true;
    }

    private static boolean safe(Map<DestinationWriter, Long> ends) {
        return ends.entrySet().stream().allMatch(each -> each.getKey().durable() >= each.getValue());
    }

    private boolean settled(Taken row) {
        return writers.apply(row.destination())
                .map(writer -> writer.settled(design.id()) >= row.nth())
                .orElse(true);
    }

    /** Why what is to be confirmed is not true of a row; empty where it is. */
    private String notSo(Taken row) {
        if (confirms.of() == Confirmation.Of.SAFE && row.nth() > 0) {
            return "";
        }
        Optional<SetAside> aside = local.aside().find(row.destination(), row.rowId());
        if (aside.isPresent()) {
            return "Set aside: " + aside.get().reason();
        }
        return writers.apply(row.destination())
                .map(writer -> writer.notLanded(design.id(), row.nth()))
                .orElse("Its destination is not there any more.");
    }
}
