package dachshund.engine.local;

import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.util.LinkedHashMap;
import java.util.Map;

/** What our own database is to have as soon as it answers, in the order in which it came. */
public final class Waiting {

    private final LocalStore local;

    Waiting(LocalStore local) {
        this.local = local;
        local.make("waiting (nth INTEGER PRIMARY KEY, what TEXT NOT NULL, mark TEXT NOT NULL, text TEXT NOT NULL)");
    }

    /**
     * Keeps one, forced to disk.
     *
     * @param what which kind of thing
     * @param mark tells it from all others
     */
    public void add(String what, String mark, String text) {
        local.update("INSERT INTO waiting (what, mark, text) VALUES (?, ?, ?)", what, mark, text);
    }

    /** The first ones, text by mark. */
    public Map<String, String> first(String what, int most) {
        return local.run(connection -> {
            try (PreparedStatement statement = LocalStore.prepare(
                            connection,
                            "SELECT mark, text FROM waiting WHERE what = ? ORDER BY nth LIMIT ?",
                            what,
                            most);
                    ResultSet rows = statement.executeQuery()) {
                Map<String, String> first = new LinkedHashMap<>();
                while (rows.next()) {
                    first.put(rows.getString(1), rows.getString(2));
                }
                return first;
            }
        });
    }

    public int count(String what) {
        return local.run(connection -> {
            try (PreparedStatement statement =
                            LocalStore.prepare(connection, "SELECT COUNT(*) FROM waiting WHERE what = ?", what);
                    ResultSet rows = statement.executeQuery()) {
                rows.next();
                return rows.getInt(1);
            }
        });
    }

    /** It has arrived. */
    public void remove(String mark) {
        local.update("DELETE FROM waiting WHERE mark = ?", mark);
    }
}
