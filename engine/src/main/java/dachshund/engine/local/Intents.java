package dachshund.engine.local;

import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;

/**
 * Requests that were begun where no mark goes with them, and of which it is not known how they ended. One that is here is not done
 * again by itself.
 */
public final class Intents {

    private final LocalStore local;

    /** A request that waits for a person. */
    public record Intent(String transaction, String request, Instant at) {}

    Intents(LocalStore local) {
        this.local = local;
        local.make("intent (what TEXT NOT NULL, request TEXT NOT NULL, at TEXT NOT NULL, PRIMARY KEY (what, request))");
    }

    /**
     * Forced to disk before anything is done.
     *
     * @return false where it was begun before and nobody knows how it ended
     */
    public boolean begin(String transaction, String request, Instant at) {
        return local.update(
                        "INSERT OR IGNORE INTO intent (what, request, at) VALUES (?, ?, ?)",
                        transaction,
                        request,
                        at.toString())
                == 1;
    }

    /** It is known how it ended. */
    public void ended(String transaction, String request) {
        local.update("DELETE FROM intent WHERE what = ? AND request = ?", transaction, request);
    }

    /** Those of one transaction, oldest first. */
    public List<Intent> of(String transaction) {
        return local.run(connection -> {
            try (PreparedStatement statement = LocalStore.prepare(
                            connection, "SELECT request, at FROM intent WHERE what = ? ORDER BY at", transaction);
                    ResultSet rows = statement.executeQuery()) {
                List<Intent> all = new ArrayList<>();
                while (rows.next()) {
                    all.add(new Intent(transaction, rows.getString(1), Instant.parse(rows.getString(2))));
                }
                return all;
            }
        });
    }
}
