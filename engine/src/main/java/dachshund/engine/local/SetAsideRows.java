package dachshund.engine.local;

import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;

/**
 * Rows that are set aside, in the local store, until somebody mends and sends them or discards them: they are nowhere else, so
 * no age clears them. What bounds them is their number.
 */
public final class SetAsideRows {

    /** Of one recorder; more than anybody looks at, and some 100 MB. */
    public static final int MOST = 100_000;

    private static final String ALL =
            "SELECT id, recorder, destination, row_id, record_time, columns, cells, reason, alike, sent, at FROM set_aside ";

    private final LocalStore local;
    private final int most;
    private final Map<String, Long> counts = new ConcurrentHashMap<>();

    /**
     * Rows of one recorder, one destination and one reason.
     *
     * @param reason of the newest of them
     * @param last   id of the newest of them
     */
    public record Group(
            String recorder,
            String destination,
            String alike,
            String reason,
            long rows,
            Instant oldest,
            Instant newest,
            long last) {}

    /** @param most rows of one recorder that there is room for */
    SetAsideRows(LocalStore local, int most) {
        this.local = local;
        this.most = most;
        local.run(connection -> {
            try (Statement statement = connection.createStatement()) {
                statement.execute(
                        "CREATE TABLE IF NOT EXISTS set_aside (id INTEGER PRIMARY KEY AUTOINCREMENT, recorder TEXT NOT NULL, destination TEXT NOT NULL, row_id TEXT NOT NULL, record_time TEXT NOT NULL, cells TEXT NOT NULL, reason TEXT NOT NULL, at TEXT NOT NULL, UNIQUE (destination, row_id))");
                Set<String> there = new HashSet<>();
                try (ResultSet columns = statement.executeQuery("PRAGMA table_info(set_aside)")) {
                    while (columns.next()) {
                        there.add(columns.getString("name"));
                    }
                }
                for (String later : List.of("columns", "alike", "sent")) {
                    if (!there.contains(later)) {
                        statement.execute("ALTER TABLE set_aside ADD COLUMN " + later + " TEXT NOT NULL DEFAULT ''");
                    }
                }
                statement.execute("UPDATE set_aside SET alike = reason WHERE alike = ''");
                statement.execute(
                        "CREATE INDEX IF NOT EXISTS set_aside_alike ON set_aside (recorder, destination, alike)");
            }
            return null;
        });
        count();
    }

    /**
     * Keeps a row that is in no journal; the same row is kept once.
     *
     * @param values null for no value
     */
    public void keep(
            String recorder,
            String destination,
            String rowId,
            Instant recordTime,
            List<String> columns,
            List<String> values,
            String reason,
            Instant at) {
        keep(recorder, destination, rowId, recordTime, columns, values, reason, at, Map.of());
    }

    /**
     * Keeps a row, and in the same step that its lane is behind it: once it is sent again it is aside no more, and must not be
     * met a second time on the way.
     *
     * @param lane how far the lane is with this row settled, by its name
     */
    public void keep(
            String recorder,
            String destination,
            String rowId,
            Instant recordTime,
            List<String> columns,
            List<String> values,
            String reason,
            Instant at,
            Map<String, Settled> lane) {
        int kept = local.together(connection -> {
            LocalStore.settle(connection, lane);
            try (PreparedStatement insert = LocalStore.prepare(
                    connection,
                    "INSERT INTO set_aside (recorder, destination, row_id, record_time, columns, cells, reason, alike, at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT DO NOTHING",
                    recorder,
                    destination,
                    rowId,
                    recordTime.toString(),
                    TextList.write(columns),
                    TextList.write(values),
                    reason,
                    SetAside.alike(reason),
                    at.toString())) {
                return insert.executeUpdate();
            }
        });
        counts.merge(recorder, (long) kept, Long::sum);
    }

    /** The newest rows of a recorder, newest first. */
    public List<SetAside> newest(String recorder, int limit) {
        return rows("WHERE recorder = ? ORDER BY id DESC LIMIT ?", recorder, limit);
    }

    /** Rows of one group, oldest first, behind the one with the id. */
    public List<SetAside> page(String recorder, String destination, String alike, long after, int limit) {
        return rows(
                "WHERE recorder = ? AND destination = ? AND alike = ? AND id > ? ORDER BY id LIMIT ?",
                recorder,
                destination,
                alike,
                after,
                limit);
    }

    public Optional<SetAside> find(long id) {
        return rows("WHERE id = ?", id).stream().findFirst();
    }

    /** All groups, those with the newest rows first. */
    public List<Group> groups() {
        return local.run(connection -> {
            // Of the row with the largest id, as SQLite promises beside max() (sqlite.org/lang_select.html, bare
            // columns).
            try (Statement statement = connection.createStatement();
                    ResultSet rows = statement.executeQuery(
                            "SELECT recorder, destination, alike, reason, COUNT(*), MIN(record_time), MAX(record_time), MAX(id) FROM set_aside GROUP BY recorder, destination, alike ORDER BY MAX(id) DESC")) {
                List<Group> groups = new ArrayList<>();
                while (rows.next()) {
                    groups.add(new Group(
                            rows.getString(1),
                            rows.getString(2),
                            rows.getString(3),
                            rows.getString(4),
                            rows.getLong(5),
                            Instant.parse(rows.getString(6)),
                            Instant.parse(rows.getString(7)),
                            rows.getLong(8)));
                }
                return groups;
            }
        });
    }

    /**
     * Notes under which identities rows are about to be sent again, so that they can be looked up whatever happens then.
     *
     * @param as identities by id of the row
     */
    public void sending(Map<Long, String> as) {
        local.together(connection -> {
            try (PreparedStatement statement =
                    connection.prepareStatement("UPDATE set_aside SET sent = ? WHERE id = ?")) {
                for (Map.Entry<Long, String> each : as.entrySet()) {
                    statement.setString(1, each.getValue());
                    statement.setLong(2, each.getKey());
                    statement.addBatch();
                }
                return statement.executeBatch();
            }
        });
    }

    /** Whether a row with the identity is aside. */
    public boolean holds(String destination, String rowId) {
        return find(destination, rowId).isPresent();
    }

    /** The row with the identity, if it is aside. */
    public Optional<SetAside> find(String destination, String rowId) {
        return rows("WHERE destination = ? AND row_id = ? LIMIT 1", destination, rowId).stream()
                .findFirst();
    }

    /** A new reason why it does not fit; it was not sent. */
    public void refused(long id, String reason) {
        local.update("UPDATE set_aside SET reason = ?, alike = ? WHERE id = ?", reason, SetAside.alike(reason), id);
    }

    /** Lets go of rows that were sent or discarded. */
    public void letGo(List<Long> ids) {
        local.together(connection -> {
            try (PreparedStatement statement = connection.prepareStatement("DELETE FROM set_aside WHERE id = ?")) {
                for (Long id : ids) {
                    statement.setLong(1, id);
                    statement.addBatch();
                }
                return statement.executeBatch();
            }
        });
        count();
    }

    /** Why no more rows of the recorder are set aside, in a sentence; empty while there is room. */
    public String full(String recorder) {
        return counts.getOrDefault(recorder, 0L) < most
                ? ""
                : String.format(
                        Locale.ROOT,
                        "%,d rows of this recorder are set aside, and there is room for no more. Send or discard them.",
                        most);
    }

    /** How many there are, by recorder. */
    public Map<String, Long> counts() {
        return counts;
    }

    private void count() {
        Map<String, Long> found = local.run(connection -> {
            try (Statement statement = connection.createStatement();
                    ResultSet rows =
                            statement.executeQuery("SELECT recorder, COUNT(*) FROM set_aside GROUP BY recorder")) {
                Map<String, Long> all = new HashMap<>();
                while (rows.next()) {
                    all.put(rows.getString(1), rows.getLong(2));
                }
                return all;
            }
        });
        counts.keySet().retainAll(found.keySet());
        counts.putAll(found);
    }

    private List<SetAside> rows(String which, Object... values) {
        return local.run(connection -> {
            try (PreparedStatement statement = LocalStore.prepare(connection, ALL + which, values);
                    ResultSet rows = statement.executeQuery()) {
                List<SetAside> found = new ArrayList<>();
                while (rows.next()) {
                    found.add(row(rows));
                }
                return found;
            }
        });
    }

    private static SetAside row(ResultSet rows) throws SQLException {
        String columns = rows.getString(6);
        return new SetAside(
                rows.getLong(1),
                rows.getString(2),
                rows.getString(3),
                rows.getString(4),
                Instant.parse(rows.getString(5)),
                columns.isEmpty() ? List.of() : TextList.read(columns),
                TextList.read(rows.getString(7)),
                rows.getString(8),
                rows.getString(9),
                rows.getString(10),
                Instant.parse(rows.getString(11)));
    }
}
