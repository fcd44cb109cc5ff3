package dachshund.engine.local;

import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.Statement;
import java.time.LocalDate;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;

/**
 * The designs under which rows were made, beside those in the journal: rows whose design was altered there on disk are still
 * written.
 */
public final class KeptDesigns {

    /** The day of a design in use is not written anew sooner. */
    private static final int DAYS = 30;

    private final LocalStore local;
    private final Map<Long, LocalDate> known = new ConcurrentHashMap<>();

    KeptDesigns(LocalStore local) {
        this.local = local;
        local.make("design (key INTEGER PRIMARY KEY, document BLOB NOT NULL, day TEXT NOT NULL)");
        local.run(connection -> {
            try (Statement statement = connection.createStatement();
                    ResultSet rows = statement.executeQuery("SELECT key, day FROM design")) {
                while (rows.next()) {
                    known.put(rows.getLong(1), LocalDate.parse(rows.getString(2)));
                }
            }
            return null;
        });
    }

    /** Whether the design is on disk, with a day that is not too old. */
    public boolean knows(long key, LocalDate day) {
        LocalDate last = known.get(key);
        return last != null && last.isAfter(day.minusDays(DAYS));
    }

    /**
     * Keeps all of them at once.
     *
     * @param day on which they were put to work last, UTC
     */
    public void keep(Map<Long, byte[]> documents, LocalDate day) {
        local.together(connection -> {
            for (Map.Entry<Long, byte[]> each : documents.entrySet()) {
                try (PreparedStatement statement = LocalStore.prepare(
                        connection,
                        "INSERT INTO design VALUES (?, ?, ?) ON CONFLICT (key) DO UPDATE SET day = excluded.day",
                        each.getKey(),
                        each.getValue(),
                        day.toString())) {
                    statement.executeUpdate();
                }
            }
            return null;
        });
        documents.keySet().forEach(key -> known.put(key, day));
    }

    public Optional<byte[]> find(long key) {
        return local.run(connection -> {
            try (PreparedStatement statement =
                            LocalStore.prepare(connection, "SELECT document FROM design WHERE key = ?", key);
                    ResultSet rows = statement.executeQuery()) {
                return rows.next() ? Optional.of(rows.getBytes(1)) : Optional.empty();
            }
        });
    }

    /** Forgets designs that were put to work last before the day. */
    public void forget(LocalDate before) {
        local.update("DELETE FROM design WHERE day < ?", before.toString());
        known.values().removeIf(day -> day.isBefore(before));
    }
}
