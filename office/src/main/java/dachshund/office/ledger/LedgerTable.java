package dachshund.office.ledger;

import dachshund.core.ledger.LedgerStore;
import dachshund.core.ledger.Noted;
import dachshund.core.ledger.Run;
import dachshund.core.ledger.RunDays;
import dachshund.engine.ledger.RunDocument;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Predicate;
import javax.sql.DataSource;
import org.springframework.dao.DataAccessResourceFailureException;

/** The ledger in our own database. */
public final class LedgerTable implements LedgerStore {

    /** Values that runs are found by are cut to so many letters. */
    static final int LONGEST_KEY = 120;

    private static final int LIMIT_SECONDS = 20;
    private static final int AT_ONCE = 500;
    /** Where a page was filled by runs under several names, so many times as many rows are looked at. */
    private static final int SEVERAL_NAMES = 8;

    private final DataSource source;

    public LedgerTable(DataSource source) {
        this.source = source;
    }

    @FunctionalInterface
    private interface Work<T> {
        T on(Connection connection) throws SQLException;
    }

    private <T> T run(Work<T> work) {
        try (Connection connection = source.getConnection()) {
            connection.setAutoCommit(false);
            try {
                T done = work.on(connection);
                connection.commit();
                return done;
            } catch (SQLException | RuntimeException failed) {
                try {
                    connection.rollback();
                } catch (SQLException gone) {
                    failed.addSuppressed(gone);
                }
                throw failed;
            }
        } catch (SQLException away) {
            throw new DataAccessResourceFailureException("Our own database: " + away.getMessage(), away);
        }
    }

    /** A question of one statement needs no transaction around it. */
    private <T> T look(Work<T> work) {
        try (Connection connection = source.getConnection()) {
            return work.on(connection);
        } catch (SQLException away) {
            throw new DataAccessResourceFailureException("Our own database: " + away.getMessage(), away);
        }
    }

    @Override
    public void take(List<Noted> runs) {
        run(connection -> {
            if (runs.isEmpty()) {
                return connection.isValid(LIMIT_SECONDS);
            }
            for (int from = 0; from < runs.size(); from += AT_ONCE) {
                take(connection, runs.subList(from, Math.min(from + AT_ONCE, runs.size())));
            }
            return true;
        });
    }

    /** One that is there stays as it is; of two with one id, the first counts. */
    private static void take(Connection connection, List<Noted> runs) throws SQLException {
        Map<String, Noted> fresh = new LinkedHashMap<>();
        runs.forEach(run -> fresh.putIfAbsent(run.id(), run));
        fresh.keySet().removeAll(places(connection, fresh.keySet()).keySet());
        if (fresh.isEmpty()) {
            return;
        }
        try (PreparedStatement insert = connection.prepareStatement(
                "INSERT INTO ledger_run (id, thing, fired_at, outcome, millis, document) VALUES (?, ?, ?, ?, ?, ?)")) {
            insert.setQueryTimeout(LIMIT_SECONDS);
            for (Noted run : fresh.values()) {
                insert.setString(1, run.id());
                insert.setString(2, run.thing());
                insert.setObject(3, utc(run.fired()));
                insert.setString(4, run.outcome().name());
                insert.setInt(5, (int) Math.max(Integer.MIN_VALUE, Math.min(Integer.MAX_VALUE, run.millis())));
                insert.setString(6, run.document());
                insert.addBatch();
            }
            insert.executeBatch();
        }
        Map<String, Long> places = places(connection, fresh.keySet());
        try (PreparedStatement insert = connection.prepareStatement(
                "INSERT INTO ledger_key (value, fired_at, run, name) VALUES (?, ?, ?, ?)")) {
            insert.setQueryTimeout(LIMIT_SECONDS);
            boolean any = false;
            for (Noted run : fresh.values()) {
                for (Map.Entry<String, String> key : run.keys().entrySet()) {
                    insert.setString(1, cut(key.getValue()));
                    insert.setObject(2, utc(run.fired()));
                    insert.setLong(3, places.get(run.id()));
                    insert.setString(4, key.getKey());
                    insert.addBatch();
                    any = true;
                }
            }
            if (any) {
                insert.executeBatch();
            }
        }
    }

    /** The numbers of those that are there, by id. */
    private static Map<String, Long> places(Connection connection, Set<String> ids) throws SQLException {
        Map<String, Long> places = new HashMap<>();
        String marks = String.join(", ", Collections.nCopies(ids.size(), "?"));
        try (PreparedStatement ask =
                connection.prepareStatement("SELECT id, nth FROM ledger_run WHERE id IN (" + marks + ")")) {
            ask.setQueryTimeout(LIMIT_SECONDS);
            int at = 1;
            for (String id : ids) {
                ask.setString(at++, id);
            }
            try (ResultSet rows = ask.executeQuery()) {
                while (rows.next()) {
                    places.put(rows.getString(1), rows.getLong(2));
                }
            }
        }
        return places;
    }

    private static String cut(String value) {
        return value.length() > LONGEST_KEY ? value.substring(0, LONGEST_KEY) : value;
    }

    private static LocalDateTime utc(Instant at) {
        return LocalDateTime.ofInstant(at, ZoneOffset.UTC);
    }

    /**
     * What of the ledger is wanted, newest first.
     *
     * @param from    the earliest trigger
     * @param to      no trigger at this instant or later
     * @param thing   id of what was run; empty for all
     * @param outcome empty for every one
     * @param key     a value that runs are found by; empty for all
     * @param before  only those older than the run of this number; {@link Long#MAX_VALUE} for the newest
     * @param most    how many
     */
    public record Wanted(
            Instant from, Instant to, String thing, Optional<Run.Outcome> outcome, String key, long before, int most) {}

    /** A run with its number in the ledger; read when something of it is wanted. Of one thread. */
    public static final class Numbered {
        private final long nth;
        private final String document;
        private Run run;

        private Numbered(long nth, String document) {
            this.nth = nth;
            this.document = document;
        }

        public long nth() {
            return nth;
        }

        public Run run() {
            if (run == null) {
                run = RunDocument.read(document);
            }
            return run;
        }
    }

    public List<Numbered> find(Wanted wanted) {
        return look(connection -> {
            // A run may have one value under several names: then it is found so often, one beside the other.
            for (long most = wanted.most(); ; most *= SEVERAL_NAMES) {
                List<Object> values = new ArrayList<>();
                String sql = "SELECT r.nth, r.document FROM " + from(wanted, values) + " ORDER BY "
                        + (wanted.key().isEmpty() ? "r.fired_at DESC, r.nth DESC" : "k.fired_at DESC, k.run DESC")
                        + " LIMIT " + most;
                List<Numbered> found = new ArrayList<>();
                long rows = read(connection, sql, values, each -> found.add(each) && found.size() < wanted.most());
                if (found.size() >= wanted.most() || rows < most) {
                    return found;
                }
            }
        });
    }

    private static String from(Wanted wanted, List<Object> values) {
        StringBuilder sql = new StringBuilder();
        if (wanted.key().isEmpty()) {
            sql.append("ledger_run r WHERE 1 = 1");
        } else {
            sql.append("ledger_key k JOIN ledger_run r ON r.nth = k.run WHERE k.value = ?");
            values.add(cut(wanted.key()));
        }
        String at = wanted.key().isEmpty() ? "r" : "k";
        sql.append(" AND " + at + ".fired_at >= ? AND " + at + ".fired_at < ?");
        values.add(utc(wanted.from()));
        values.add(utc(wanted.to()));
        if (!wanted.thing().isEmpty()) {
            sql.append(" AND r.thing = ?");
            values.add(wanted.thing());
        }
        wanted.outcome().ifPresent(outcome -> {
            sql.append(" AND r.outcome = ?");
            values.add(outcome.name());
        });
        if (wanted.before() != Long.MAX_VALUE) {
            sql.append(" AND (r.fired_at, r.nth) < ((SELECT fired_at FROM ledger_run WHERE nth = ?), ?)");
            values.add(wanted.before());
            values.add(wanted.before());
        }
        return sql.toString();
    }

    private static long read(Connection connection, String sql, List<Object> values, Predicate<Numbered> taker)
            throws SQLException {
        return read(connection, sql, values, document -> true, taker);
    }

    /**
     * Of rows that follow each other and are of one run, the first is told of.
     *
     * @param wanted whether a run is told of, by its document
     * @param taker  says whether it wants more
     * @return how many rows there were
     */
    private static long read(
            Connection connection, String sql, List<Object> values, Predicate<String> wanted, Predicate<Numbered> taker)
            throws SQLException {
        try (PreparedStatement statement =
                connection.prepareStatement(sql, ResultSet.TYPE_FORWARD_ONLY, ResultSet.CONCUR_READ_ONLY)) {
            statement.setQueryTimeout(LIMIT_SECONDS);
            statement.setFetchSize(AT_ONCE);
            for (int i = 0; i < values.size(); i++) {
                statement.setObject(i + 1, values.get(i));
            }
            try (ResultSet rows = statement.executeQuery()) {
                long count = 0;
                long last = -1;
                while (rows.next()) {
                    count++;
                    long nth = rows.getLong(1);
                    String document = rows.getString(2);
                    if (nth != last && wanted.test(document) && !taker.test(new Numbered(nth, document))) {
                        break;
                    }
                    last = nth;
                }
                return count;
            }
        }
    }

    /**
     * Runs of the time in which a text stands anywhere, newest first: every run of it is read, one after the other.
     *
     * @param taker says whether it wants more
     */
    public void everywhere(Wanted wanted, String text, Predicate<Numbered> taker) {
        String wantedText = text.toLowerCase(Locale.ROOT);
        look(connection -> {
            List<Object> values = new ArrayList<>();
            String sql =
                    "SELECT r.nth, r.document FROM " + from(wanted, values) + " ORDER BY r.fired_at DESC, r.nth DESC";
            int[] found = {0};
            read(
                    connection,
                    sql,
                    values,
                    document -> document.toLowerCase(Locale.ROOT).contains(wantedText),
                    numbered -> taker.test(numbered) && ++found[0] < wanted.most());
            return true;
        });
    }

    /**
     * How runs of one thing ended since an instant, the newest first.
     *
     * @param most no more than these
     */
    public List<RunDays.Ended> ended(String thing, Instant from, int most) {
        return look(connection -> {
            try (PreparedStatement statement = connection.prepareStatement(
                    "SELECT fired_at, outcome, millis FROM ledger_run WHERE thing = ? AND fired_at >= ?"
                            + " ORDER BY fired_at DESC LIMIT " + most)) {
                statement.setQueryTimeout(LIMIT_SECONDS);
                statement.setString(1, thing);
                statement.setObject(2, utc(from));
                List<RunDays.Ended> all = new ArrayList<>();
                try (ResultSet rows = statement.executeQuery()) {
                    while (rows.next()) {
                        all.add(new RunDays.Ended(
                                rows.getObject(1, LocalDateTime.class).toInstant(ZoneOffset.UTC),
                                Run.Outcome.valueOf(rows.getString(2)),
                                rows.getInt(3)));
                    }
                }
                return all;
            }
        });
    }

    /** Why runs of one thing failed since an instant, and how often; the most frequent first. */
    public Map<String, Integer> reasons(String thing, Instant from, int most) {
        return look(connection -> {
            try (PreparedStatement statement = connection.prepareStatement(
                    "SELECT LEFT(JSON_VALUE(document, '$.reason'), 300) AS why, COUNT(*) AS often FROM ledger_run"
                            + " WHERE thing = ? AND fired_at >= ? AND outcome IN ('FAILED', 'DROPPED', 'UNCERTAIN')"
                            + " GROUP BY why ORDER BY often DESC, why LIMIT " + most)) {
                statement.setQueryTimeout(LIMIT_SECONDS);
                statement.setString(1, thing);
                statement.setObject(2, utc(from));
                Map<String, Integer> all = new LinkedHashMap<>();
                try (ResultSet rows = statement.executeQuery()) {
                    while (rows.next()) {
                        all.put(Optional.ofNullable(rows.getString(1)).orElse(""), rows.getInt(2));
                    }
                }
                return all;
            }
        });
    }

    public Optional<Run> find(String id) {
        return look(connection -> {
            List<Run> found = new ArrayList<>();
            read(
                    connection,
                    "SELECT nth, document FROM ledger_run WHERE id = ?",
                    List.of(id),
                    each -> found.add(each.run()));
            return found.stream().findFirst();
        });
    }

    /** Removes what is older, some at a time. How many there were. */
    public int removeBefore(Instant oldest, int most) {
        return run(connection -> {
            List<Long> gone = new ArrayList<>();
            try (PreparedStatement statement = connection.prepareStatement(
                    "SELECT nth FROM ledger_run WHERE fired_at < ? ORDER BY fired_at LIMIT " + most)) {
                statement.setObject(1, utc(oldest));
                try (ResultSet rows = statement.executeQuery()) {
                    while (rows.next()) {
                        gone.add(rows.getLong(1));
                    }
                }
            }
            for (String sql : List.of("DELETE FROM ledger_key WHERE run = ?", "DELETE FROM ledger_run WHERE nth = ?")) {
                try (PreparedStatement statement = connection.prepareStatement(sql)) {
                    for (Long each : gone) {
                        statement.setLong(1, each);
                        statement.addBatch();
                    }
                    if (!gone.isEmpty()) {
                        statement.executeBatch();
                    }
                }
            }
            return gone.size();
        });
    }

    /** About how many there are. */
    public long count() {
        return look(connection -> {
            try (Statement statement = connection.createStatement();
                    ResultSet rows = statement.executeQuery("SELECT COUNT(*) FROM ledger_run")) {
                rows.next();
                return rows.getLong(1);
            }
        });
    }
}
