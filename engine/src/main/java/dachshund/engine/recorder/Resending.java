package dachshund.engine.recorder;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.Place;
import dachshund.core.destination.RowBatch;
import dachshund.core.destination.RowReading;
import dachshund.core.destination.StoreProblem;
import dachshund.core.layout.Column;
import dachshund.core.row.Made;
import dachshund.core.row.Mended;
import dachshund.core.row.Row;
import dachshund.core.row.RowFacts;
import dachshund.core.row.RowId;
import dachshund.engine.local.SetAside;
import dachshund.engine.local.SetAsideRows;
import dachshund.engine.thread.Hands;
import java.time.Duration;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;

/**
 * Rows that were set aside, sent again by a person under the released design. A row that is sent is a new one for its lane,
 * with an identity of its own, which is noted beside the old one before it goes to disk; only when it is on disk it is not
 * aside any more. So whatever dies in between, both can be looked up in the table.
 */
public final class Resending {

    private static final Duration ON_DISK_WITHIN = Duration.ofSeconds(3);
    private static final Duration SENT_WITHIN = Duration.ofSeconds(3);
    private static final Duration SETTLED_WITHIN = Duration.ofSeconds(2);
    private static final String ON_ITS_WAY =
            "It was sent before and may be on its way still; try again when its lane has written what it holds.";

    private final SetAsideRows aside;
    private final Function<String, Optional<RecorderRun>> runs;
    private final Function<String, Optional<RowReading>> reading;
    private final ZoneId zone;
    private final Hands hands;

    /**
     * What became of rows that were to be sent again.
     *
     * @param sent    they are on their way
     * @param there   they were in their table already, and are not aside any more
     * @param refused why others stay aside, and how many each
     */
    public record Outcome(int sent, int there, Map<String, Integer> refused) {}

    /**
     * @param runs    recorders at work, by id
     * @param reading stores for looking rows up, by destination
     * @param hands   who does the work that is waited for
     */
    public Resending(
            SetAsideRows aside,
            Function<String, Optional<RecorderRun>> runs,
            Function<String, Optional<RowReading>> reading,
            ZoneId zone,
            Hands hands) {
        this.aside = aside;
        this.runs = runs;
        this.reading = reading;
        this.zone = zone;
        this.hands = hands;
    }

    /** The cells of a row by the names of the released design's columns; those that it lost are left out. */
    public static Map<String, String> texts(SetAside row, RecorderDefinition released) {
        List<Column> written = released.layout().written();
        List<String> names = row.columns().isEmpty() && row.values().size() == written.size()
                ? written.stream().map(Column::name).toList()
                : row.columns();
        Map<String, String> texts = new LinkedHashMap<>();
        for (int i = 0; i < Math.min(names.size(), row.values().size()); i++) {
            texts.put(names.get(i), row.values().get(i));
        }
        Map<String, String> known = new LinkedHashMap<>();
        written.forEach(column -> known.put(column.name(), texts.get(column.name())));
        return known;
    }

    /** The row as the released design makes it of these texts, or why it does not fit. */
    public Made made(SetAside row, RecorderDefinition released, Map<String, String> texts) {
        return Mended.of(released.layout(), RowId.read(row.rowId()), row.recordTime(), texts, zone);
    }

    /** The batch of one row that trying or looking up sends, for its own place. */
    public static RowBatch batch(RecorderDefinition released, Where where, Row row, RowFacts facts) {
        Place place = where.place().of(row, released.layout(), facts);
        return new RowBatch("try", place, released.layout(), false, where.mode(), List.of(row));
    }

    /**
     * Sends rows of one recorder and destination again.
     *
     * @param mended other texts than their own, by id of the row
     * @throws StoreProblem             where their table cannot be asked whether they are there already; nothing was sent then
     * @throws IllegalArgumentException with a sentence, where the recorder does not run
     */
    public Outcome send(List<SetAside> rows, Map<Long, Map<String, String>> mended, RowFacts facts)
            throws StoreProblem {
        // Two people may send the same rows at one moment: the second one finds them gone.
        synchronized (aside) {
            List<SetAside> still =
                    rows.stream().flatMap(row -> aside.find(row.id()).stream()).toList();
            return still.isEmpty() ? new Outcome(0, 0, Map.of()) : sendThese(still, mended, facts);
        }
    }

    private Outcome sendThese(List<SetAside> rows, Map<Long, Map<String, String>> mended, RowFacts facts)
            throws StoreProblem {
        SetAside first = rows.get(0);
        RecorderRun run = runs.apply(first.recorder())
                .orElseThrow(() -> new IllegalArgumentException(
                        "The recorder does not run. Rows are sent as its released design says; start it first."));
        RecorderDefinition released = run.definition();
        Where where = released.wheres().stream()
                .filter(each -> each.destination().equals(first.destination()))
                .findFirst()
                .orElseThrow(() -> new IllegalArgumentException(
                        "The released design does not write there any more. Take the rows away as CSV."));
        boolean settled = settled(run, rows);
        Map<String, Integer> refused = new LinkedHashMap<>();
        Map<Long, Map<String, String>> texts = new HashMap<>();
        Map<Long, Row> made = new LinkedHashMap<>();
        List<SetAside> fit = new ArrayList<>();
        for (SetAside row : rows) {
            texts.put(row.id(), mended.getOrDefault(row.id(), texts(row, released)));
            Made as = made(row, released, texts.get(row.id()));
            if (as instanceof Made.Whole whole) {
                fit.add(row);
                made.put(row.id(), whole.row());
            } else if (as instanceof Made.Refused not) {
                refused.merge(not.reason(), 1, Integer::sum);
                if (!mended.containsKey(row.id())) {
                    aside.refused(row.id(), not.reason());
                }
            }
        }
        Set<Long> there = there(released, where, fit, made, facts);
        List<Long> gone = new ArrayList<>(there);
        List<Row> go = new ArrayList<>();
        List<Long> going = new ArrayList<>();
        Map<Long, String> noted = new HashMap<>();
        for (SetAside row : fit) {
            if (there.contains(row.id())) {
                continue;
            }
            if (!row.sent().isEmpty() && aside.holds(row.destination(), row.sent())) {
                // Sent before, and set aside again under its new identity: it is there under that.
                gone.add(row.id());
            } else if (!row.sent().isEmpty() && !settled) {
                refused.merge(ON_ITS_WAY, 1, Integer::sum);
            } else {
                RowId id = run.nextId();
                noted.put(row.id(), id.toString());
                go.add(((Made.Whole) Mended.of(released.layout(), id, row.recordTime(), texts.get(row.id()), zone))
                        .row());
                going.add(row.id());
            }
        }
        int sent = 0;
        if (!go.isEmpty()) {
            aside.sending(noted);
            RecorderRun.Sent handed = run.sendAgain(first.destination(), go, SENT_WITHIN);
            if (!onDisk(handed)) {
                throw new IllegalArgumentException(
                        "The rows are on their way, but the disk has not answered; they stay here until that is sure.");
            }
            sent = handed.rows();
            gone.addAll(going.subList(0, sent));
            if (!handed.trouble().isEmpty()) {
                refused.merge(handed.trouble(), go.size() - sent, Integer::sum);
            }
        }
        aside.letGo(gone);
        return new Outcome(sent, there.size(), refused);
    }

    /** Whether all that is on its way just now has its fate, which only rows that may be among it have to wait for. */
    private boolean settled(RecorderRun run, List<SetAside> rows) {
        return rows.stream().allMatch(row -> row.sent().isEmpty())
                || run.settled(rows.get(0).destination(), SETTLED_WITHIN, hands);
    }

    /** Rows that are in their table already, under the identity they had or the one they were sent under. */
    private Set<Long> there(
            RecorderDefinition released, Where where, List<SetAside> rows, Map<Long, Row> made, RowFacts facts)
            throws StoreProblem {
        Optional<RowReading> store = reading.apply(where.destination());
        Map<Place, List<Row>> asked = new LinkedHashMap<>();
        Map<RowId, Long> whose = new HashMap<>();
        for (SetAside row : rows) {
            for (String id : row.sent().isEmpty() ? List.of(row.rowId()) : List.of(row.rowId(), row.sent())) {
                Row one = new Row(
                        RowId.read(id), row.recordTime(), made.get(row.id()).cells());
                whose.put(one.id(), row.id());
                asked.computeIfAbsent(where.place().of(one, released.layout(), facts), place -> new ArrayList<>())
                        .add(one);
            }
        }
        Set<Long> there = new HashSet<>();
        for (Map.Entry<Place, List<Row>> each : asked.entrySet()) {
            RowBatch batch =
                    new RowBatch("again", each.getKey(), released.layout(), false, where.mode(), each.getValue());
            if (store.isPresent() && store.get().canFind(batch)) {
                find(store.get(), batch).forEach(id -> there.add(whose.get(id)));
            }
        }
        return there;
    }

    /** Where there is no table yet, there is no row. */
    private static Set<RowId> find(RowReading store, RowBatch batch) throws StoreProblem {
        String database = batch.place().database();
        if (!database.isEmpty() && !store.hasDatabase(database)) {
            return Set.of();
        }
        try {
            return store.in(database).landed(batch);
        } catch (StoreProblem problem) {
            if (problem.kind() == StoreProblem.Kind.TABLE) {
                return Set.of();
            }
            throw problem;
        }
    }

    private boolean onDisk(RecorderRun.Sent last) {
        return hands.await(() -> last.writer().durable() >= last.end(), ON_DISK_WITHIN);
    }
}
