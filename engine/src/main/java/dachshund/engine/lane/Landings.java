package dachshund.engine.lane;

import dachshund.core.destination.Place;
import dachshund.core.layout.Column;
import dachshund.core.row.Conversion;
import dachshund.core.time.PlantClock;
import dachshund.engine.local.LocalStore;
import dachshund.engine.thread.Threads;
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
import java.util.concurrent.ExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.function.Consumer;

/**
 * Gathers what has landed in one destination, so that the ledger has a line for the rows of a while and not for each: for a
 * minute where values came that they are found by and that the line before has not, for ten where the same ones came again,
 * for an hour where their design declares no keys. How many rows of each lane were told of is remembered, so that what landed
 * just before an application died is told of as a number, at its next start. Safe for many threads; nobody who writes rows
 * waits for it.
 */
final class Landings {

    /** So long rows with new values of keys are gathered. */
    static final Duration WITH_KEYS = Duration.ofMinutes(1);
    /** So long those with the values of before. */
    static final Duration THE_SAME = Duration.ofMinutes(10);
    /** And so long those without keys. */
    static final Duration WITHOUT = Duration.ofHours(1);
    /** So many values of a column are told of at once. */
    static final int MOST_VALUES = 50;

    /** Values longer than these are nothing that anybody looks up. */
    private static final int LONGEST_VALUE = 120;

    private static final String TOLD = "landed told ";

    private final String destination;
    private final String installation;
    private final LocalStore local;
    private final PlantClock clock;
    private final ExecutorService thread;
    private final Map<String, Gathered> lanes = new HashMap<>();
    /** The values that the last line of a lane had. */
    private final Map<String, Set<String>> before = new HashMap<>();
    /** What is to be told, and what is to be remembered then. */
    private final List<Landed> toTell = new ArrayList<>();

    private final Map<String, String> toRemember = new LinkedHashMap<>();
    /** Lanes of which it is remembered how much was told. */
    private final Set<String> remembered = new HashSet<>();

    private Consumer<Landed> teller = landed -> {};
    private boolean heard;

    /** @param thread of its own, on which the ledger and the local store are told */
    Landings(String destination, LocalStore local, PlantClock clock, ExecutorService thread) {
        this.destination = destination;
        this.installation = local.installation();
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
        private boolean full;

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
                        full |= known.size() >= MOST_VALUES;
                    }
                }
            });
        }

        private Set<String> all() {
            Set<String> all = new HashSet<>();
            values.values().forEach(all::addAll);
            return all;
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
            Instant now = clock.now();
            if (told >= 0 && landed > told) {
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
        return installation + "-" + lane.name + "-" + before;
    }

    /**
     * Rows of a lane have landed. It never throws: a defect in telling is reported, and is no matter of the rows.
     *
     * @param landedBefore how many of it had landed before them
     */
    synchronized void landed(Lane lane, List<Lane.Waiting> rows, long landedBefore) {
        if (heard) {
            guarded(() -> gather(lane, rows, landedBefore));
        }
    }

    private void guarded(Runnable telling) {
        try {
            telling.run();
        } catch (RuntimeException | Error defect) {
            Threads.report(defect);
        }
    }

    private void gather(Lane lane, List<Lane.Waiting> rows, long landedBefore) {
        if (remembered.add(lane.name)) {
            toRemember.put(TOLD + lane.name, Long.toString(landedBefore));
        }
        long counted = landedBefore;
        for (Lane.Waiting row : rows) {
            Gathered gathered = lanes.get(lane.name);
            if (gathered == null || !gathered.takes(row) || gathered.full) {
                tellOf(gathered);
                gathered = new Gathered(lane, row, counted, clock.now(), clock.nanos());
                lanes.put(lane.name, gathered);
            }
            gathered.add(row);
            counted++;
        }
        begin();
    }

    /** Tells what is old enough. Does not throw. */
    synchronized void look(long nanos) {
        guarded(() -> tellOld(nanos));
    }

    private void tellOld(long nanos) {
        List<Gathered> old =
                lanes.values().stream().filter(each -> isOld(each, nanos)).toList();
        old.forEach(this::tellOf);
        old.forEach(each -> lanes.remove(each.lane.name));
        begin();
    }

    private boolean isOld(Gathered gathered, long nanos) {
        long age = nanos - gathered.nanos;
        if (gathered.values.isEmpty()) {
            return age >= WITHOUT.toNanos();
        }
        return age >= THE_SAME.toNanos()
                || age >= WITH_KEYS.toNanos()
                        && !before.getOrDefault(gathered.lane.name, Set.of()).containsAll(gathered.all());
    }

    /** Tells all that is gathered, and waits for so long until it is told. @return whether it is */
    boolean close(Duration within) throws InterruptedException {
        synchronized (this) {
            List.copyOf(lanes.values()).forEach(this::tellOf);
            lanes.clear();
            begin();
        }
        thread.shutdown();
        return thread.awaitTermination(within.toMillis(), TimeUnit.MILLISECONDS);
    }

    private void tellOf(Gathered gathered) {
        if (gathered == null) {
            return;
        }
        Map<String, List<String>> keys = new LinkedHashMap<>();
        gathered.values.forEach((column, values) -> keys.put(
                gathered.design.recorder().layout().written().get(column).name(), new ArrayList<>(values)));
        toTell.add(new Landed(
                id(gathered.lane, gathered.before),
                gathered.lane.recorder,
                gathered.design.recorder().name(),
                Place.read(gathered.place).words() + " in " + destination,
                gathered.rows,
                gathered.begun,
                clock.now(),
                gathered.first,
                gathered.last,
                keys));
        toRemember.put(TOLD + gathered.lane.name, Long.toString(gathered.before + gathered.rows));
        if (!gathered.values.isEmpty()) {
            before.put(gathered.lane.name, gathered.all());
        }
    }

    /** What is to be told goes to the thread as one piece: many lanes may come at the same time. */
    private void begin() {
        if (toTell.isEmpty() && toRemember.isEmpty()) {
            return;
        }
        List<Landed> all = List.copyOf(toTell);
        Map<String, String> facts = Map.copyOf(toRemember);
        toTell.clear();
        toRemember.clear();
        thread.execute(() -> {
            all.forEach(each -> guarded(() -> teller.accept(each)));
            local.remember(facts);
        });
    }
}
