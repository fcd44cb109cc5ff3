package dachshund.engine.destination;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.Place;
import dachshund.core.destination.RowReading;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.TableDescription;
import dachshund.core.destination.TableKeeping;
import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import dachshund.core.row.RowId;
import dachshund.engine.lane.Lane;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.List;
import java.util.Optional;

/**
 * The old rows of one table of one place of a recorder, tonight: those that the recorder has made in this installation, told by
 * their ids, are found some thousands at a time and removed some hundreds at a time. Of one thread.
 */
final class OldRowsOfTable {

    /** Rows that go in one transaction. */
    static final int AT_ONCE = 500;
    /** Rows that are read before the first of them go. */
    static final int MOST_READ = 20_000;
    /** No engine has trouble with this one, as a time stamp of whatever kind. */
    private static final Instant OLDEST = Instant.parse("1970-01-02T00:00:00Z");

    /** No time stamp of a column is finer. */
    private static final Duration FINEST = Duration.ofNanos(1000);

    private final String installation;
    private final RecorderDefinition recorder;
    private final Where where;
    private final Place place;
    private final Instant begun;
    private final Instant before;
    private final Deque<RowId> found = new ArrayDeque<>();
    /** What is older than this was looked at. */
    private Instant from = OLDEST;

    private boolean all;
    private long rows;
    private long others;

    OldRowsOfTable(
            String installation, RecorderDefinition recorder, Where where, Place place, Instant begun, Instant before) {
        this.installation = installation;
        this.recorder = recorder;
        this.where = where;
        this.place = place;
        this.begun = begun;
        this.before = before;
    }

    /** Whether the rows that were to go are gone nobody knows: what is there is looked at anew. */
    void again() {
        found.clear();
        from = OLDEST;
        all = false;
        others = 0;
    }

    private void found(RowId row) {
        if (row.installation().equals(installation)) {
            found.add(row);
        } else {
            others++;
        }
    }

    String lane() {
        return Lane.name(recorder.id(), where.destination());
    }

    RecorderDefinition recorder() {
        return recorder;
    }

    Where where() {
        return where;
    }

    Place place() {
        return place;
    }

    /** When its night began. */
    Instant begun() {
        return begun;
    }

    /** Rows that are older than this go. */
    Instant before() {
        return before;
    }

    /** How many the database said that it removed. */
    long rows() {
        return rows;
    }

    /** How many as old another installation has written. */
    long others() {
        return others;
    }

    boolean isDone() {
        return all && found.isEmpty();
    }

    /**
     * Looks for old rows where none is known, and removes some of those that were found.
     *
     * @throws StoreProblem with a sentence, where the table does not allow it
     */
    void step(OldRows.Tables tables) throws StoreProblem {
        if (found.isEmpty()) {
            read(tables);
        }
        remove(tables);
    }

    private void read(OldRows.Tables tables) throws StoreProblem {
        Layout layout = recorder.layout();
        Column id = layout.rowIdColumn().orElseThrow();
        Column time = layout.recordTimeColumn().orElseThrow();
        RowReading reading = tables.reading(where.destination()).orElse(null);
        if (reading == null || !reading.readsBetween()) {
            throw new StoreProblem(
                    StoreProblem.Kind.TABLE, -1, "This destination cannot be asked for rows by their time.", null);
        }
        TableKeeping keeping = keeping(tables);
        Optional<TableDescription> there = keeping.describe(place.table());
        for (Column needed : List.of(id, time)) {
            if (there.isPresent() && there.get().column(needed.name()).isEmpty()) {
                throw new StoreProblem(
                        StoreProblem.Kind.TABLE,
                        -1,
                        "The table has no column " + needed.name()
                                + ", by which its rows are told apart from those of others and from younger ones.",
                        null);
            }
        }
        int[] read = {0};
        Instant[] last = {from};
        // Of others at the last instant: they are read once more where it goes on with that one.
        long[] othersBefore = {others};
        reading.in(place.database())
                .between(
                        place.table(), new Layout(List.of(id, time)), time, from, before, MOST_READ, (names, cells) -> {
                            read[0]++;
                            Instant at = (Instant) cells.get(names.indexOf(time.name()));
                            if (!at.equals(last[0])) {
                                last[0] = at;
                                othersBefore[0] = others;
                            }
                            if (cells.get(names.indexOf(id.name())) instanceof String text) {
                                rowId(text.strip())
                                        .filter(each -> each.recorder().equals(recorder.id()))
                                        .ifPresent(this::found);
                            }
                        });
        all = read[0] < MOST_READ;
        // Of one instant there may be more: they are found when those of ours are gone. Where none is ours it goes on
        // behind.
        if (last[0].isAfter(from) || !found.isEmpty()) {
            from = last[0];
            others = all ? others : othersBefore[0];
        } else {
            from = last[0].plus(FINEST);
        }
    }

    /** What somebody else may have written there is none. */
    private static Optional<RowId> rowId(String text) {
        try {
            return Optional.of(RowId.read(text));
        } catch (IllegalArgumentException none) {
            return Optional.empty();
        }
    }

    private TableKeeping keeping(OldRows.Tables tables) throws StoreProblem {
        return tables.keeping(where.destination(), place.database())
                .orElseThrow(() -> new StoreProblem(
                        StoreProblem.Kind.TABLE, -1, "Rows cannot be removed from this destination.", null));
    }

    private void remove(OldRows.Tables tables) throws StoreProblem {
        List<RowId> some = new ArrayList<>(AT_ONCE);
        for (RowId each : found) {
            if (some.size() == AT_ONCE) {
                break;
            }
            some.add(each);
        }
        if (some.isEmpty()) {
            return;
        }
        int gone = keeping(tables)
                .remove(
                        place.table(),
                        recorder.layout().rowIdColumn().orElseThrow().name(),
                        some);
        if (gone == 0) {
            // They were there a moment ago, and would be found again and again.
            throw new StoreProblem(
                    StoreProblem.Kind.TABLE,
                    -1,
                    "None of " + some.size() + " rows that were found could be removed.",
                    null);
        }
        rows += gone;
        some.forEach(each -> found.poll());
    }
}
