package dachshund.engine.local;

import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.time.LocalDate;
import java.util.List;

/** Which tables and files rows of each lane were written to, under which design, and on which day they came there first. */
public final class PlacesOpened {

    private final LocalStore local;

    PlacesOpened(LocalStore local) {
        this.local = local;
        local.make(
                "lane_place (lane TEXT NOT NULL, design TEXT NOT NULL, name TEXT NOT NULL, day TEXT NOT NULL, PRIMARY KEY (lane, design, name))");
    }

    /** Whether rows of this design were written to a table or file of that name before. */
    public boolean knows(String lane, String design, String name) {
        return local.run(connection -> {
            try (PreparedStatement statement = LocalStore.prepare(
                            connection,
                            "SELECT 1 FROM lane_place WHERE lane = ? AND design = ? AND name = ?",
                            lane,
                            design,
                            name);
                    ResultSet rows = statement.executeQuery()) {
                return rows.next();
            }
        });
    }

    /** @param day of the first row's record time there, UTC */
    public void keep(String lane, String design, String name, LocalDate day) {
        local.update(
                "INSERT INTO lane_place VALUES (?, ?, ?, ?) ON CONFLICT DO NOTHING",
                lane,
                design,
                name,
                day.toString());
    }

    /** The tables or files that rows of a lane opened on a day of record time. */
    public List<String> openedOn(String lane, LocalDate day) {
        return local.names("SELECT DISTINCT name FROM lane_place WHERE lane = ? AND day = ?", lane, day.toString());
    }

    /** The tables or files that any recorder has written to in a destination. */
    public List<String> of(String destination) {
        return local.names("SELECT DISTINCT name FROM lane_place WHERE lane LIKE '%:' || ?", destination);
    }

    /** The tables or files that rows of a lane were written to, each name once, newest first. */
    public List<String> ofLane(String lane) {
        return local.names("SELECT name FROM lane_place WHERE lane = ? GROUP BY name ORDER BY MAX(rowid) DESC", lane);
    }

    /** Forgets names of tables and files that rows opened before the day; the newest of each lane stay. */
    public void forget(LocalDate before) {
        local.update(
                "DELETE FROM lane_place WHERE day < ? AND rowid NOT IN (SELECT MAX(rowid) FROM lane_place GROUP BY lane)",
                before.toString());
    }
}
