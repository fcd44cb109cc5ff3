package dachshund.engine.local;

import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;

/** What is to be done later, in order, and outlives a restart: triggers of transactions that are held, or follow another one. */
public final class KeptTriggers {

    private final LocalStore local;
    /** How many wait, by transaction: pages ask, and do not wait for the disk. Changed with what is on it, by one at a time. */
    private final Map<String, Integer> waiting = new ConcurrentHashMap<>();

    /**
     * One that waits.
     *
     * @param nth      its place in the order
     * @param identity tells it from all others of its transaction
     * @param document what it carries
     */
    public record Kept(long nth, String identity, String document) {}

    KeptTriggers(LocalStore local) {
        this.local = local;
        local.make(
                "kept_trigger (nth INTEGER PRIMARY KEY AUTOINCREMENT, what TEXT NOT NULL, identity TEXT NOT NULL, document TEXT NOT NULL, UNIQUE (what, identity))");
        waiting.putAll(counted());
    }

    /**
     * Keeps them in this order, all or none, forced to disk once.
     *
     * @param documents by identity
     * @return their places, by identity; of one that waits already there is none
     */
    public synchronized Map<String, Long> keep(String transaction, Map<String, String> documents) {
        Map<String, Long> kept = local.together(connection -> {
            Map<String, Long> places = new LinkedHashMap<>();
            try (PreparedStatement insert = connection.prepareStatement(
                            "INSERT OR IGNORE INTO kept_trigger (what, identity, document) VALUES (?, ?, ?)");
                    PreparedStatement last = connection.prepareStatement("SELECT last_insert_rowid()")) {
                for (Map.Entry<String, String> each : documents.entrySet()) {
                    insert.setString(1, transaction);
                    insert.setString(2, each.getKey());
                    insert.setString(3, each.getValue());
                    if (insert.executeUpdate() > 0) {
                        try (ResultSet row = last.executeQuery()) {
                            places.put(each.getKey(), row.getLong(1));
                        }
                    }
                }
            }
            return places;
        });
        if (!kept.isEmpty()) {
            waiting.merge(transaction, kept.size(), Integer::sum);
        }
        return kept;
    }

    /** It is done, or failed for good. */
    public synchronized void done(String transaction, long nth) {
        if (local.update("DELETE FROM kept_trigger WHERE nth = ?", nth) > 0) {
            waiting.computeIfPresent(transaction, (id, count) -> count > 1 ? count - 1 : null);
        }
    }

    /** How many wait, by the transaction that is to do them. */
    public Map<String, Integer> waiting() {
        return Map.copyOf(waiting);
    }

    private Map<String, Integer> counted() {
        return local.run(connection -> {
            Map<String, Integer> all = new LinkedHashMap<>();
            try (PreparedStatement statement = LocalStore.prepare(
                            connection, "SELECT what, COUNT(*) FROM kept_trigger GROUP BY what ORDER BY what");
                    ResultSet rows = statement.executeQuery()) {
                while (rows.next()) {
                    all.put(rows.getString(1), rows.getInt(2));
                }
            }
            return all;
        });
    }

    /** Nobody will do them. */
    public synchronized void discard(String transaction) {
        local.update("DELETE FROM kept_trigger WHERE what = ?", transaction);
        waiting.remove(transaction);
    }

    /** How many wait of one transaction. */
    public int count(String transaction) {
        return waiting.getOrDefault(transaction, 0);
    }

    /** Those of one transaction, in their order. */
    public List<Kept> of(String transaction) {
        return local.run(connection -> {
            try (PreparedStatement statement = LocalStore.prepare(
                            connection,
                            "SELECT nth, identity, document FROM kept_trigger WHERE what = ? ORDER BY nth",
                            transaction);
                    ResultSet rows = statement.executeQuery()) {
                List<Kept> all = new ArrayList<>();
                while (rows.next()) {
                    all.add(new Kept(rows.getLong(1), rows.getString(2), rows.getString(3)));
                }
                return all;
            }
        });
    }
}
