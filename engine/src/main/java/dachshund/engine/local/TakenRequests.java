package dachshund.engine.local;

import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.util.ArrayList;
import java.util.List;

/**
 * The last request of each recorder that confirms its rows, and which rows were made for it: on disk before the first of them is in a
 * journal, so that a request that is asked for again after a death is recorded once.
 */
public final class TakenRequests {

    private final LocalStore local;

    /**
     * A row of a request.
     *
     * @param destination that it goes to
     * @param line        among the rows of one instant
     * @param rowId       its identity
     * @param nth         its running number in the destination's journal; 0 where it was set aside at once and is in none
     */
    public record Taken(String destination, int line, String rowId, long nth) {}

    /**
     * A request.
     *
     * @param request its identity; empty where there was none
     * @param planned how many rows were to be made for it
     * @param rows    those that were
     */
    public record Last(String request, int planned, List<Taken> rows) {
        public static final Last NONE = new Last("", 0, List.of());

        /** The same request with other rows. */
        public Last with(List<Taken> other) {
            return new Last(request, planned, other);
        }

        /** Whether all of it is there. */
        public boolean whole() {
            return planned > 0 && rows.size() >= planned;
        }
    }

    TakenRequests(LocalStore local) {
        this.local = local;
        local.make("asked_request (recorder TEXT PRIMARY KEY, request TEXT NOT NULL, planned INTEGER NOT NULL)");
        local.make(
                "asked_row (recorder TEXT NOT NULL, destination TEXT NOT NULL, line INTEGER NOT NULL, row_id TEXT NOT NULL, nth INTEGER NOT NULL, PRIMARY KEY (recorder, destination, line))");
    }

    /** The last request of a recorder. */
    public Last last(String recorder) {
        return local.run(connection -> {
            Last last = Last.NONE;
            try (PreparedStatement statement = LocalStore.prepare(
                            connection, "SELECT request, planned FROM asked_request WHERE recorder = ?", recorder);
                    ResultSet rows = statement.executeQuery()) {
                if (rows.next()) {
                    last = new Last(rows.getString(1), rows.getInt(2), new ArrayList<>());
                }
            }
            try (PreparedStatement statement = LocalStore.prepare(
                            connection,
                            "SELECT destination, line, row_id, nth FROM asked_row WHERE recorder = ?",
                            recorder);
                    ResultSet rows = statement.executeQuery()) {
                while (rows.next()) {
                    last.rows().add(new Taken(rows.getString(1), rows.getInt(2), rows.getString(3), rows.getLong(4)));
                }
            }
            return last;
        });
    }

    /** Puts a request in the place of the one before, in one step forced to disk. */
    public void keep(String recorder, Last last) {
        local.together(connection -> {
            try (PreparedStatement request = LocalStore.prepare(
                            connection,
                            "INSERT OR REPLACE INTO asked_request (recorder, request, planned) VALUES (?, ?, ?)",
                            recorder,
                            last.request(),
                            last.planned());
                    PreparedStatement before =
                            LocalStore.prepare(connection, "DELETE FROM asked_row WHERE recorder = ?", recorder);
                    PreparedStatement row = connection.prepareStatement(
                            "INSERT INTO asked_row (recorder, destination, line, row_id, nth) VALUES (?, ?, ?, ?, ?)")) {
                request.executeUpdate();
                before.executeUpdate();
                for (Taken each : last.rows()) {
                    row.setString(1, recorder);
                    row.setString(2, each.destination());
                    row.setInt(3, each.line());
                    row.setString(4, each.rowId());
                    row.setLong(5, each.nth());
                    row.addBatch();
                }
                return row.executeBatch();
            }
        });
    }
}
