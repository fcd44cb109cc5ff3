package dachshund.engine.transaction;

import dachshund.core.destination.StoreProblem;
import dachshund.core.ledger.Run;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.sql.Dialect;
import dachshund.core.time.PlantClock;
import dachshund.core.transaction.Execution;
import dachshund.core.transaction.Values;
import dachshund.core.when.When;
import dachshund.engine.thread.Threads;
import dachshund.engine.thread.Worker;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Predicate;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * Looks through a table again and again and gives each new row to whoever takes it, in the order of its column that grows. A thread
 * of its own: a database that hangs delays nothing else.
 */
final class NewRows implements AutoCloseable {

    private static final Duration LIMIT = Duration.ofSeconds(30);
    /** More within the look-back cannot be kept apart in reasonable time. */
    static final int MOST_LOOKED_AT = 100_000;

    /** So many rows that stand nowhere may be behind all others. */
    private static final long MOST_ODD = 1000;

    /** How often it is looked what stands before. */
    private static final long BEFORE_NANOS = 10_000_000_000L;

    private static final Duration STOP = Duration.ofSeconds(1);

    private final When.OnNewRow rows;
    private final TakenRows taken;
    private final Reading reading;
    private final Taker taker;
    private final PlantClock clock;
    private final Worker worker;
    private volatile boolean closed;
    private volatile String trouble = "";
    /** Which row stands nowhere, in a sentence; of the thread that looks. */
    private String passedOver = "";
    /** That rows come which are not found, in a sentence. */
    private String missed = "";

    private RowPlace looksFrom;
    private Optional<RowPlace> lastBefore = Optional.empty();
    private long lookedBefore;

    /** The table's database, opened anew where its design has changed. */
    interface Reading {
        TableReading now() throws QueryProblem;

        Dialect dialect() throws QueryProblem;
    }

    /** Who takes rows. */
    interface Taker {

        /** How many it would take now. */
        int room();

        /**
         * @param key   tells it from all other rows of the table
         * @param cells by the names that steps call them; nothing is null
         * @param origin told how it goes on with the row
         */
        void take(String key, Map<String, Object> cells, Trigger.Origin origin);
    }

    private record Row(String key, RowPlace at, Map<String, Object> cells) {}

    NewRows(When.OnNewRow rows, TakenRows taken, Reading reading, Taker taker, PlantClock clock) {
        this.rows = rows;
        this.clock = clock;
        this.taken = taken;
        this.reading = reading;
        this.taker = taker;
        this.worker = Threads.start("new-rows", this::step);
    }

    /** Why it cannot look, in a sentence; empty where it can. */
    String trouble() {
        return trouble;
    }

    private long step() {
        long pause = rows.every().toNanos();
        if (closed) {
            return pause;
        }
        try {
            passedOver = "";
            boolean more = look();
            trouble = passedOver.isEmpty() ? missed : passedOver;
            return more ? Math.min(pause, 20_000_000) : pause;
        } catch (StoreProblem | QueryProblem no) {
            trouble = "New rows of " + rows.table() + " cannot be looked for. " + no.getMessage();
        } catch (RuntimeException | Error defect) {
            Threads.report(defect);
            trouble = "New rows of " + rows.table() + " cannot be looked for. Unexpectedly: " + Threads.words(defect)
                    + ".";
        }
        return pause;
    }

    /** @return whether more rows are known to be there */
    private boolean look() throws StoreProblem, QueryProblem {
        if (!taken.begun()) {
            taken.begin(there());
            return false;
        }
        int room = taker.room();
        if (room <= 0) {
            return false;
        }
        List<Row> fresh = new ArrayList<>();
        boolean[] more = new boolean[1];
        boolean all = false;
        boolean[] any = new boolean[1];
        Optional<RowPlace> from = taken.look(rows);
        try {
            ask(from, row -> {
                any[0] = true;
                if (fresh.size() == room) {
                    more[0] = true;
                    return false;
                }
                if (!closed && taken.take(row.key(), row.at())) {
                    fresh.add(row);
                }
                return !closed;
            });
            all = !more[0] && !closed;
            if (!any[0] && from.isPresent()) {
                endsBefore(from.get());
            }
        } finally {
            taken.looked(all);
            if (!all && !more[0]) {
                fresh.forEach(row -> taken.letGo(row.key()));
            }
        }
        if (!all && !more[0]) {
            return false;
        }
        if (!fresh.isEmpty()) {
            missed = "";
        } else if (from.isPresent()) {
            comesBefore(from.get());
        }
        for (Row row : fresh) {
            taker.take(row.key(), named(row.cells()), new Trigger.Origin() {
                @Override
                public void done(Run how) {
                    taken.done(row.key(), rows);
                }

                @Override
                public void letGo() {
                    taken.letGo(row.key());
                }
            });
        }
        return more[0];
    }

    /** Whoever numbers a table anew is not found from where the last row was; that is said. */
    private void endsBefore(RowPlace from) throws StoreProblem, QueryProblem {
        Optional<RowPlace> last = furthest();
        if (last.isPresent() && last.get().compareTo(from) < 0) {
            throw new QueryProblem("Its rows end at " + last.get().at() + ", before all that is looked at (from "
                    + from.at() + " on): they were removed, or are numbered anew. What is numbered anew is not found.");
        }
    }

    /**
     * One row with a number far too large, and all that come later stand before what is looked at. Nobody can tell what is new
     * there, but that something comes is seen by the last of them, which is another one than a while ago.
     */
    private void comesBefore(RowPlace from) throws StoreProblem, QueryProblem {
        long now = clock.nanos();
        if (looksFrom != null && looksFrom.compareTo(from) == 0 && now - lookedBefore < BEFORE_NANOS) {
            return;
        }
        Dialect dialect = reading.dialect();
        String order = dialect.quote(rows.order());
        Optional<RowPlace> last = RowPlace.of(first(
                "SELECT MAX(" + order + ") FROM " + table(dialect) + " WHERE " + order + " < :from",
                List.of(from.at()),
                cell -> true));
        if (looksFrom != null && looksFrom.compareTo(from) == 0) {
            boolean comes =
                    last.isPresent() && (lastBefore.isEmpty() || last.get().compareTo(lastBefore.get()) > 0);
            if (comes) {
                missed = "Rows of " + rows.table()
                        + " come that stand before all that is looked at (the last of them at "
                        + last.get().at() + ", and it is looked from " + from.at()
                        + " on): they come later than it looks back, or a row was taken that stands far ahead of the others. They are not found.";
            }
        } else {
            missed = "";
        }
        looksFrom = from;
        lastBefore = last;
        lookedBefore = now;
    }

    /**
     * The row that stands furthest, as a run would have it; without one, the run has nothing of a row.
     *
     * @throws QueryProblem where the table cannot be looked through so
     */
    static Map<String, Object> newest(When.OnNewRow rows, Reading reading) throws StoreProblem, QueryProblem {
        Dialect dialect = reading.dialect();
        String order = dialect.quote(rows.order());
        Map<String, Object> newest = new LinkedHashMap<>();
        reading.now()
                .ask(
                        QueryText.of("SELECT * FROM " + table(rows, dialect) + " WHERE " + order
                                + " IS NOT NULL ORDER BY " + order + " DESC"),
                        List.of(),
                        LIMIT,
                        1,
                        new EachRow(cells -> {
                            newest.putAll(cells);
                            return false;
                        }));
        if (newest.isEmpty()) {
            return newest;
        }
        return named(row(rows, newest).cells());
    }

    private static Map<String, Object> named(Map<String, Object> cells) {
        Map<String, Object> all = new LinkedHashMap<>();
        cells.forEach((column, cell) -> all.put(Execution.name(When.OnNewRow.ROW, column), cell));
        return all;
    }

    /** The rows near the furthest place, which stand there before anything is looked for. */
    private Map<String, RowPlace> there() throws StoreProblem, QueryProblem {
        Optional<RowPlace> furthest = furthest();
        Map<String, RowPlace> all = new LinkedHashMap<>();
        if (furthest.isPresent()) {
            ask(furthest.map(place -> place.back(rows)), row -> {
                all.put(row.key(), row.at());
                return true;
            });
        }
        return all;
    }

    /** Of a row that is not ahead of now. */
    private Optional<RowPlace> furthest() throws StoreProblem, QueryProblem {
        Optional<RowPlace> last = furthest(Optional.empty());
        Instant now = clock.now();
        return last.isPresent() && last.get().isAhead(now) ? furthest(last.get().ofNow(now)) : last;
    }

    private Optional<RowPlace> furthest(Optional<RowPlace> upTo) throws StoreProblem, QueryProblem {
        Dialect dialect = reading.dialect();
        String order = dialect.quote(rows.order());
        String from = " FROM " + table(dialect)
                + (upTo.isPresent() ? " WHERE " + order + " <= :now" : " WHERE " + order + " IS NOT NULL");
        List<Object> bound =
                upTo.<List<Object>>map(place -> List.of(place.at())).orElse(List.of());
        Object last = first("SELECT MAX(" + order + ")" + from, bound, cell -> true);
        if (last == null || RowPlace.of(last).isPresent()) {
            return RowPlace.of(last);
        }
        Object behind =
                first("SELECT " + order + from + " ORDER BY " + order + " DESC", bound, cell -> RowPlace.of(cell)
                        .isPresent());
        if (behind == null) {
            throw new QueryProblem(nowhere(rows, last));
        }
        return RowPlace.of(behind);
    }

    /** The first cell of some rows that will do; null where there is none. */
    private Object first(String sql, List<Object> bound, Predicate<Object> does) throws StoreProblem, QueryProblem {
        Object[] found = new Object[1];
        reading.now().ask(QueryText.of(sql), bound, LIMIT, MOST_ODD, new EachRow(row -> {
            Object cell = row.values().iterator().next();
            if (does.test(cell)) {
                found[0] = cell;
                return false;
            }
            return true;
        }));
        return found[0];
    }

    /** The cells as a row that can be told apart, and stands somewhere. */
    private static Row row(When.OnNewRow rows, Map<String, Object> cells) throws QueryProblem {
        return new Row(key(rows, cells), place(rows, cell(cells, rows.order())), cells);
    }

    private static RowPlace place(When.OnNewRow rows, Object cell) throws QueryProblem {
        return RowPlace.of(cell).orElseThrow(() -> new QueryProblem(nowhere(rows, cell)));
    }

    private static String nowhere(When.OnNewRow rows, Object cell) {
        return "The column " + rows.order() + " has to be a number or a time, and holds \"" + Values.words(cell)
                + "\".";
    }

    private String table(Dialect dialect) {
        return table(rows, dialect);
    }

    private static String table(When.OnNewRow rows, Dialect dialect) {
        return Stream.of(rows.table().strip().split("\\.", 2))
                .map(dialect::quote)
                .collect(Collectors.joining("."));
    }

    @FunctionalInterface
    private interface Each {
        /** @return whether more are wanted */
        boolean row(Row row);
    }

    /** Rows from a place on, in their order; those without a place are not seen. */
    private void ask(Optional<RowPlace> from, Each each) throws StoreProblem, QueryProblem {
        Dialect dialect = reading.dialect();
        String order = dialect.quote(rows.order());
        String sql = "SELECT * FROM " + table(dialect) + " WHERE " + order
                + (from.isPresent() ? " >= :from" : " IS NOT NULL") + " ORDER BY " + order + keys(dialect);
        List<Object> bound = new ArrayList<>();
        from.ifPresent(place -> bound.add(place.at()));
        int[] looked = new int[1];
        QueryProblem[] odd = new QueryProblem[1];
        reading.now().ask(QueryText.of(sql), bound, LIMIT, MOST_LOOKED_AT, new EachRow(cells -> {
            looked[0]++;
            try {
                Object at = cell(cells, rows.order());
                if (RowPlace.of(at).isEmpty()) {
                    passedOver = "Of " + rows.table() + " the row " + key(rows, cells)
                            + " is passed over, and those that stand somewhere are taken. " + nowhere(rows, at);
                    return true;
                }
                return each.row(row(rows, cells));
            } catch (QueryProblem no) {
                odd[0] = no;
                return false;
            }
        }));
        if (odd[0] != null) {
            throw odd[0];
        }
        if (looked[0] == MOST_LOOKED_AT) {
            throw new QueryProblem(
                    "There are more than " + MOST_LOOKED_AT + " rows within the look-back. Take a shorter one.");
        }
    }

    private String keys(Dialect dialect) {
        return rows.key().stream()
                .filter(each -> !each.equalsIgnoreCase(rows.order()))
                .map(each -> ", " + dialect.quote(each))
                .collect(Collectors.joining());
    }

    private static String key(When.OnNewRow rows, Map<String, Object> cells) throws QueryProblem {
        StringBuilder key = new StringBuilder();
        for (String each : rows.key()) {
            key.append(key.isEmpty() ? "" : " | ").append(Values.words(cell(cells, each)));
        }
        return key.toString();
    }

    private static Object cell(Map<String, Object> cells, String column) throws QueryProblem {
        for (Map.Entry<String, Object> each : cells.entrySet()) {
            if (each.getKey().equalsIgnoreCase(column)) {
                return each.getValue();
            }
        }
        throw new QueryProblem("There is no column " + column + ".");
    }

    /** Rows by the names of their columns. */
    private static final class EachRow implements TableReading.Taker {

        private final Predicate<Map<String, Object>> taker;
        private final List<String> names = new ArrayList<>();

        EachRow(Predicate<Map<String, Object>> taker) {
            this.taker = taker;
        }

        @Override
        public void columns(List<TableShape.Column> columns) {
            columns.forEach(each -> names.add(each.name()));
        }

        @Override
        public boolean row(List<Object> cells) {
            Map<String, Object> row = new LinkedHashMap<>();
            for (int i = 0; i < names.size(); i++) {
                row.put(names.get(i), cells.get(i));
            }
            return taker.test(row);
        }
    }

    /** Looks no more; rows that were given away go on. */
    @Override
    public void close() {
        closed = true;
        worker.wake();
        Threads.once("closing", () -> worker.close(STOP));
    }
}
