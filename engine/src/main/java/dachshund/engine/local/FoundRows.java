package dachshund.engine.local;

import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** How far tables were looked through for new rows, and which rows near that place were taken. */
public final class FoundRows {

    private final LocalStore local;

    FoundRows(LocalStore local) {
        this.local = local;
        local.make("row_place (what TEXT PRIMARY KEY, place TEXT NOT NULL)");
        local.make("row_taken (what TEXT NOT NULL, row TEXT NOT NULL, place TEXT NOT NULL, PRIMARY KEY (what, row))");
    }

    /** The place, as it was written; empty where nothing was looked through yet. */
    public Optional<String> place(String what) {
        return local.run(connection -> {
            try (PreparedStatement statement =
                            LocalStore.prepare(connection, "SELECT place FROM row_place WHERE what = ?", what);
                    ResultSet rows = statement.executeQuery()) {
                return rows.next() ? Optional.of(rows.getString(1)) : Optional.empty();
            }
        });
    }

    /** Rows that were taken, with their places. */
    public Map<String, String> taken(String what) {
        return local.run(connection -> {
            try (PreparedStatement statement =
                            LocalStore.prepare(connection, "SELECT row, place FROM row_taken WHERE what = ?", what);
                    ResultSet rows = statement.executeQuery()) {
                Map<String, String> all = new LinkedHashMap<>();
                while (rows.next()) {
                    all.put(rows.getString(1), rows.getString(2));
                }
                return all;
            }
        });
    }

    /**
     * Goes on, in one step forced to disk.
     *
     * @param taken  rows that were taken now, with their places
     * @param gone   rows that nobody has to know any more
     */
    public void goOn(String what, String place, Map<String, String> taken, List<String> gone) {
        local.together(connection -> {
            try (PreparedStatement at = LocalStore.prepare(
                            connection, "INSERT OR REPLACE INTO row_place (what, place) VALUES (?, ?)", what, place);
                    PreparedStatement put = connection.prepareStatement(
                            "INSERT OR REPLACE INTO row_taken (what, row, place) VALUES (?, ?, ?)");
                    PreparedStatement drop =
                            connection.prepareStatement("DELETE FROM row_taken WHERE what = ? AND row = ?")) {
                at.executeUpdate();
                for (Map.Entry<String, String> each : taken.entrySet()) {
                    put.setString(1, what);
                    put.setString(2, each.getKey());
                    put.setString(3, each.getValue());
                    put.executeUpdate();
                }
                for (String each : gone) {
                    drop.setString(1, what);
                    drop.setString(2, each);
                    drop.executeUpdate();
                }
                return null;
            }
        });
    }
}
