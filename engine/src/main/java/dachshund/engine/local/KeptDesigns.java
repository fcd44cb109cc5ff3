package dachshund.engine.local;

import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.time.LocalDate;
import java.util.Optional;

/**
 * The designs under which rows were made, beside those in the journal: rows whose design was altered there on disk are still
 * written.
 */
public final class KeptDesigns {

    private final LocalStore local;

    KeptDesigns(LocalStore local) {
        this.local = local;
        local.make("design (key INTEGER PRIMARY KEY, document BLOB NOT NULL, day TEXT NOT NULL)");
    }

    /** @param day on which it was put to work last, UTC */
    public void keep(long key, byte[] document, LocalDate day) {
        local.update(
                "INSERT INTO design VALUES (?, ?, ?) ON CONFLICT (key) DO UPDATE SET day = excluded.day",
                key,
                document,
                day.toString());
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
    }
}
