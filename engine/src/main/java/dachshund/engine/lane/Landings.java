package dachshund.engine.lane;

import dachshund.core.destination.Place;
import dachshund.core.layout.Column;
import dachshund.core.row.Conversion;
import dachshund.core.time.PlantClock;
import dachshund.engine.local.LocalStore;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.Executor;
import java.util.function.Consumer;

/**
 * Gathers what has landed in one destination, so that the ledger has a line for the rows of a while and not for each: for a
 * minute where their design declares keys that they are found by, for an hour where it declares none. How many rows of each
 * lane were told of is remembered, so that what landed just before an application died is told of as a number, at its next
 * start. Safe for many threads; nobody who writes rows waits for it.
 */
final class Landings {

    /** So long rows with keys are gathered. */
    static final Duration WITH_KEYS = Duration.ofMinutes(1);
    /** And so long others. */
    static final Duration WITHOUT = Duration.ofHours(1);
    /** So many values of a column are told of at once. */
    static final int MOST_VALUES = 50;

    /** Values longer than these are nothing that anybody looks up. */
    private static final int LONGEST_VALUE = 120;

    private static final String TOLD = "landed told ";

    private final String destination;
    private final LocalStore local;
    private final PlantClock clock;
    private final Executor thread;
    private final Map<String, Gathered> lanes = new HashMap<>();
    /** Lanes of which it is remembered how much was told. */
    private final Set<String> remembered = new HashSet<>();

    private Consumer<Landed> teller = landed -> {};
    private boolean heard;

    /** @param thread on which the ledger and the local store are told */
    Landings(String destination, LocalStore local, PlantClock clock, Executor thread) {
        this.destination = destination;
        this.local = local;
        this.clock = clock;
        this.thread = thread;
    }

    /** What a lane has gathered since it was told of last. */
    private static final class Gathered {
        private final Lane lane;
        private final LaneDesign design;
        private final String place;
        private final Instant begun;
        private final long nanos;
        /** How many of its lane had landed before. */
        private final long before;

        private final Map<Integer, Set<String>> values = new LinkedHashMap<>();
        private long rows;
        private Instant first = Instant.MAX;
        private Instant last = Instant.MIN;

        private Gathered(Lane lane, Lane.Waiting row, long before, Instant begun, long nanos) {
            this.lane = lane;
            this.design = row.design();
            this.place = row.place();
            this.before = before;
            this.begun = begun;
            this.nanos = nanos;
            List<Column> written = design.recorder().layout().written();
            for (int i = 0; i < written.size(); i++) {
                if (design.recorder().keys().contains(written.get(i).name())) {
                    values.put(i, new LinkedHashSet<>());
                }
            }
        }

        private boolean takes(Lane.Waiting row) {
            return row.design().key() == design.key() && row.place().equals(place);
        }

        private void add(Lane.Waiting row) {
            rows++;
            Instant at = row.row().recordTime();
            first = at.isBefore(first) ? at : first;
            last = at.isAfter(last) ? at : last;
            values.forEach((column, known) -> {
                Object cell = row.row().cells()[column];
                if (cell != null) {
                    String value = Conversion.plain(cell);
                    if (!value.isBlank() && value.length() <= LONGEST_VALUE) {
                        known.add(value);
                    }
                }
            });
        }

        private boolean full() {
            return values.values().stream().anyMatch(known -> known.size() >= MOST_VALUES);
        }

        private boolean old(long now) {
            return now - nanos >= (values.isEmpty() ? WITHOUT : WITH_KEYS).toNanos();
        }
    }

    /** From now on somebody hears of it. What had landed before, and was not told of, is told as a number. */
    synchronized void tell(Consumer<Landed> to, Iterable<Lane> known) {
        teller = to;
        heard = true;
        known.forEach(this::catchUp);
    }

    /** A lane that has landed more than anybody was told: the application died in between. */
    private void catchUp(Lane lane) {
        long landed = lane.settled().landed();
        remembered.add(lane.name);
        thread.execute(() -> {
            long told = local.remembered(TOLD + lane.name).map(Long::parseLong).orElse(-1L);
            if (told >= 0 && landed > told) {
                Instant now = clock.now();
                teller.accept(new Landed(
                        id(lane, told),
                        lane.recorder,
                        "",
                        destination + ", before the application ended without being told to",
                        landed - told,
                        now,
                        now,
                        now,
                        now,
                        Map.of()));
            }
            if (told != landed) {
                local.remember(TOLD + lane.name, Long.toString(landed));
            }
        });
    }

    private String id(Lane lane, long before) {
        return local.installation() + "-" + lane.name + "-" + before;
    }

    /**
     * Rows of a lane have landed.
     *
     * @param before how many of it had landed before them
     */
    synchronized void landed(Lane lane, List<Lane.Waiting> rows, long before) {
        if (!heard) {
            return;
        }
        if (remembered.add(lane.name)) {
            thread.execute(() -> local.remember(TOLD + lane.name, Long.toString(before)));
        }
        long counted = before;
        for (Lane.Waiting row : rows) {
            Gathered gathered = lanes.get(lane.name);
            if (gathered == null || !gathered.takes(row) || gathered.full()) {
                tellOf(gathered);
                gathered = new Gathered(lane, row, counted, clock.now(), clock.nanos());
                lanes.put(lane.name, gathered);
            }
            gathered.add(row);
            counted++;
        }
    }

    /** Tells what is old enough. */
    synchronized void look(long nanos) {
        List<Gathered> old =
                lanes.values().stream().filter(each -> each.old(nanos)).toList();
        old.forEach(this::tellOf);
        old.forEach(each -> lanes.remove(each.lane.name));
    }

    /** Tells all that is gathered. */
    synchronized void close() {
        List.copyOf(lanes.values()).forEach(this::tellOf);
        lanes.clear();
    }

    private void tellOf(Gathered gathered) {
        if (gathered == null) {
            return;
        }
        Map<String, List<String>> keys = new LinkedHashMap<>();
        gathered.values.forEach((column, values) -> keys.put(
                gathered.design.recorder().layout().written().get(column).name(), new ArrayList<>(values)));
        Landed landed = new Landed(
                id(gathered.lane, gathered.before),
                gathered.lane.recorder,
                gathered.design.recorder().name(),
                Place.read(gathered.place).words() + " in " + destination,
                gathered.rows,
                gathered.begun,
                clock.now(),
                gathered.first,
                gathered.last,
                keys);
        String told = Long.toString(gathered.before + gathered.rows);
        thread.execute(() -> {
            teller.accept(landed);
            local.remember(TOLD + gathered.lane.name, told);
        });
    }
}
