package dachshund.web.backup;

import dachshund.engine.journal.Offered;
import dachshund.engine.local.LocalStore;
import dachshund.engine.local.LocalStore.LocalStoreFailed;
import dachshund.office.audit.Audit;
import dachshund.office.audit.AuditTable.Deed;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Instant;
import java.util.Map;
import java.util.TreeMap;

/** The local store, copied while it is at work, and what must be changed in a copy that is brought back. */
final class LocalCopy {

    private LocalCopy() {}

    private static Connection open(Path file) throws SQLException {
        Connection connection = DriverManager.getConnection("jdbc:sqlite:" + file);
        try (Statement statement = connection.createStatement()) {
            statement.execute("PRAGMA busy_timeout = 10000");
        }
        return connection;
    }

    /** A copy as of one moment. */
    static void copy(Path file, Path to) throws SQLException {
        try (Connection connection = open(file);
                PreparedStatement statement = connection.prepareStatement("VACUUM INTO ?")) {
            statement.setString(1, to.toString());
            statement.execute();
        }
    }

    /**
     * Rows that journals hold, at most, by destination: offered, and not settled in the copy. Rows that land while the backup
     * is made may be among them.
     */
    static Map<String, Long> held(Path copy, Path offeredFolder) throws SQLException {
        Map<String, Long> held = new TreeMap<>();
        try (Connection connection = open(copy);
                Statement statement = connection.createStatement();
                ResultSet lanes = statement.executeQuery("SELECT name, nth, lost FROM lane ORDER BY name")) {
            while (lanes.next()) {
                String name = lanes.getString(1);
                int colon = name.indexOf(':');
                String destination = name.substring(colon + 1);
                Path counts = offeredFolder.resolve(destination);
                if (!Files.exists(counts)) {
                    continue;
                }
                long settled = lanes.getLong(3) + lanes.getLong(2);
                try (Offered offered = new Offered(counts)) { // another process counts in it: it is looked at only
                    offered.find(name.substring(0, colon)).ifPresent(lane -> {
                        long waiting = lane.offered() - lane.refused() - lane.aside() - settled;
                        held.merge(destination, Math.max(0, waiting), Long::sum);
                    });
                }
            }
        }
        return held;
    }

    /** What a copy says of rows that are set aside, and whether it is sound; the sentence is empty where it is. */
    record State(long aside, String problem) {}

    static State state(Path copy) throws SQLException {
        try (Connection connection = open(copy);
                Statement statement = connection.createStatement()) {
            String sound;
            try (ResultSet row = statement.executeQuery("PRAGMA integrity_check")) {
                row.next();
                sound = row.getString(1);
            }
            try (ResultSet row = statement.executeQuery("SELECT COUNT(*) FROM set_aside")) {
                row.next();
                return new State(row.getLong(1), sound.equals("ok") ? "" : sound);
            }
        }
    }

    /** Notes a fact for the application that will be started on it. */
    static void note(Path copy, String name, String value) throws SQLException {
        try (Connection connection = open(copy);
                PreparedStatement fact = connection.prepareStatement("INSERT OR REPLACE INTO fact VALUES (?, ?)")) {
            fact.setString(1, name);
            fact.setString(2, value);
            fact.executeUpdate();
        }
    }

    /** Leaves an entry for the audit, which the application brings in when it runs. */
    static void waits(Path file, Instant at, String what, String detail) throws SQLException {
        Deed deed = new Deed(Audit.mark(), at, "on the machine: " + System.getProperty("user.name"), what, detail);
        try (LocalStore local = new LocalStore(file)) {
            local.waiting().add(Audit.WAITS, deed.mark(), Audit.text(deed));
        } catch (LocalStoreFailed cannot) {
            throw new SQLException(cannot.getMessage(), cannot);
        }
    }

    /**
     * Nothing that the old machine may have done since the backup is done again by itself: clock times up to now count as
     * served, and rows that are aside say that they may have been sent. It draws an identity of its own, so that its rows are
     * told from those of the old machine, and of any other that is brought back from the same backup.
     */
    static void broughtBack(Path copy, String backupAt, Instant now) throws SQLException {
        try (Connection connection = open(copy)) {
            connection.setAutoCommit(false);
            try (PreparedStatement served = connection.prepareStatement("UPDATE served SET at = ? WHERE at < ?");
                    PreparedStatement aside = connection.prepareStatement("UPDATE set_aside SET reason = reason || ?");
                    Statement identity = connection.createStatement()) {
                identity.execute("DELETE FROM fact WHERE name IN ('installation', '" + Audit.HEAD + "')");
                served.setString(1, now.toString());
                served.setString(2, now.toString());
                served.executeUpdate();
                aside.setString(
                        1,
                        " (From the backup of " + backupAt
                                + ": whether it was mended and sent since then is not known here. Look in its table before it is sent.)");
                aside.executeUpdate();
            }
            connection.commit();
        }
    }
}
