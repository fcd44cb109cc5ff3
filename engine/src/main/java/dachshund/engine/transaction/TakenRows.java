package dachshund.engine.transaction;

import dachshund.core.time.PlantClock;
import dachshund.core.when.When;
import dachshund.engine.local.FoundRows;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;

/**
 * Which rows of a table were taken, over restarts and changes of the design: those near the furthest place, one by one; all before
 * that are behind. A row whose time is ahead of now moves no place: those that come in their time would be behind it. Safe for many
 * threads.
 */
final class TakenRows {

    /** An empty table was looked through. */
    private static final String NOWHERE = "";

    private final FoundRows disk;
    private final String what;
    private final PlantClock clock;
    private final Map<String, RowPlace> taken = new HashMap<>();
    private final TreeMap<RowPlace, List<String>> byPlace = new TreeMap<>();
    private final Map<String, RowPlace> underWay = new HashMap<>();
    /** Let go of, and not found again yet. */
    private final Map<String, RowPlace> owed = new HashMap<>();

    private boolean looks;
    private RowPlace from;
    private boolean begun;
    private RowPlace place;

    TakenRows(FoundRows disk, String what, PlantClock clock) {
        this.disk = disk;
        this.what = what;
        this.clock = clock;
        Optional<String> known = disk.place(what);
        begun = known.isPresent();
        place = known.isEmpty() || known.get().isEmpty() ? null : RowPlace.read(known.get());
        disk.taken(what).forEach((row, at) -> put(row, RowPlace.read(at)));
    }

    /** Whether the table was looked through before: what stood there then is not new. */
    synchronized boolean begun() {
        return begun;
    }

    /** All of these stand there already. */
    synchronized void begin(Map<String, RowPlace> there) {
        Map<String, String> written = new HashMap<>();
        for (Map.Entry<String, RowPlace> each : there.entrySet()) {
            RowPlace at = each.getValue();
            written.put(each.getKey(), at.toString());
            place = !at.isAhead(clock.now()) && (place == null || at.compareTo(place) > 0) ? at : place;
        }
        disk.goOn(what, written(), written, List.of());
        there.forEach(this::put);
        begun = true;
    }

    /** The furthest place; empty where the table had no row. */
    synchronized Optional<RowPlace> place() {
        return Optional.ofNullable(place);
    }

    /**
     * Begins to look through: what lies behind the place is remembered until that ends, since it may still be read.
     *
     * @return the first place to look at; empty for all of the table
     */
    synchronized Optional<RowPlace> look(When.OnNewRow rows) {
        looks = true;
        from = place == null ? null : place.back(rows);
        return Optional.ofNullable(from);
    }

    /** Whether it is to be taken; if so, it is under way from now on. */
    synchronized boolean take(String row, RowPlace at) {
        boolean takes = !taken.containsKey(row) && underWay.putIfAbsent(row, at) == null;
        if (takes) {
            owed.remove(row);
        }
        return takes;
    }

    /** It was not taken after all, and is found again. */
    synchronized void letGo(String row) {
        RowPlace at = underWay.remove(row);
        if (at != null) {
            owed.put(row, at);
        }
    }

    /** @param all whether all were looked through: what is still owed is not there any more */
    synchronized void looked(boolean all) {
        looks = false;
        if (all) {
            owed.clear();
        }
    }

    /** It is done with, however that ended. */
    synchronized void done(String row, When.OnNewRow rows) {
        RowPlace at = underWay.remove(row);
        if (at == null) {
            return;
        }
        put(row, at);
        RowPlace furthest = byPlace.floorKey(at.ofNow(clock.now()).orElse(byPlace.lastKey()));
        // What is under way may be needed again after a death, as what is owed is: the place does not leave it behind.
        for (Map<String, RowPlace> left : List.of(underWay, owed)) {
            for (RowPlace each : left.values()) {
                furthest = furthest != null && each.compareTo(furthest) < 0 ? each : furthest;
            }
        }
        place = furthest != null && (place == null || furthest.compareTo(place) > 0) ? furthest : place;
        if (place == null) {
            disk.goOn(what, written(), Map.of(row, at.toString()), List.of());
            return;
        }
        RowPlace first = place.back(rows);
        if (looks) {
            first = from == null || from.compareTo(first) > 0 ? byPlace.firstKey() : from;
        }
        Map<RowPlace, List<String>> behind = byPlace.headMap(first, false);
        List<String> gone = behind.values().stream().flatMap(List::stream).toList();
        disk.goOn(what, written(), gone.contains(row) ? Map.of() : Map.of(row, at.toString()), gone);
        behind.clear();
        gone.forEach(taken::remove);
    }

    private void put(String row, RowPlace at) {
        if (taken.put(row, at) == null) {
            byPlace.computeIfAbsent(at, each -> new ArrayList<>()).add(row);
        }
    }

    private String written() {
        return place == null ? NOWHERE : place.toString();
    }
}
