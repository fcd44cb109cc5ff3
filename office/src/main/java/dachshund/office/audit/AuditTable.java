package dachshund.office.audit;

import dachshund.core.audit.AuditChain;
import dachshund.core.audit.AuditEntry;
import dachshund.core.secret.SecretBox;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** The table of the audit, as a chain: what is put at its end carries the checksum of what stands there. */
public final class AuditTable {

    private static final int WHO = 60;
    private static final int WHAT = 60;
    private static final int DETAIL = 1000;
    private static final int TRIES = 5;
    private static final int DEADLOCK = 1213;

    private final SecretBox secrets;

    /**
     * An entry before it has its place.
     *
     * @param mark drawn with it, 32 letters and digits: however often it is brought, it is there once
     */
    public record Deed(String mark, Instant at, String who, String what, String detail) {

        /** Cut and rounded to what the table holds, so that it reads back as it was summed. */
        public Deed {
            at = at.truncatedTo(ChronoUnit.MILLIS);
            who = fitting(who, WHO);
            what = fitting(what, WHAT);
            detail = fitting(detail, DETAIL);
        }

        private static String fitting(String text, int most) {
            int points = text.codePointCount(0, text.length());
            String cut = points <= most ? text : text.substring(0, text.offsetByCodePoints(0, most - 1)) + "…";
            return new String(cut.getBytes(StandardCharsets.UTF_8), StandardCharsets.UTF_8);
        }
    }

    /** What stands at the end. */
    record Head(long number, String sum) {

        /** As it is kept on the local disk. */
        String text() {
            return number + " " + sum;
        }
    }

    public AuditTable(SecretBox secrets) {
        this.secrets = secrets;
    }

    /**
     * Puts a deed at the end, in a transaction of its own.
     *
     * @param kept what is known to have been the end: {@link Head#text}, or empty
     * @return what stands at the end now
     */
    public Head append(Connection connection, Deed deed, String kept) throws SQLException {
        for (int tried = 1; ; tried++) {
            connection.setAutoCommit(false);
            try {
                Head head = appended(connection, deed, kept);
                connection.commit();
                return head;
            } catch (SQLException e) {
                connection.rollback();
                if (e.getErrorCode() != DEADLOCK || tried == TRIES) {
                    throw e;
                }
            } finally {
                connection.setAutoCommit(true);
            }
        }
    }

    private Head appended(Connection connection, Deed deed, String kept) throws SQLException {
        Optional<Head> last = head(connection, true);
        if (last.isPresent() && last.get().sum() == null) {
            // Once a chain has begun, an entry without a checksum is one that somebody altered.
            last = Optional.of(
                    kept.isEmpty() ? begin(connection) : new Head(last.get().number(), AuditChain.BEGIN));
        }
        if (isThere(connection, deed.mark())) {
            return last.orElseThrow();
        }
        String before = last.map(Head::sum).orElse(AuditChain.BEGIN);
        AuditEntry entry = new AuditEntry(
                last.map(Head::number).orElse(0L) + 1, deed.at(), deed.who(), deed.what(), deed.detail());
        String sum = AuditChain.sum(secrets, before, entry);
        try (PreparedStatement insert = connection.prepareStatement(
                "INSERT INTO audit (id, at, who, what, detail, mark, sum) VALUES (?, ?, ?, ?, ?, ?, ?)")) {
            insert.setLong(1, entry.number());
            insert.setObject(2, LocalDateTime.ofInstant(entry.at(), ZoneOffset.UTC));
            insert.setString(3, entry.who());
            insert.setString(4, entry.what());
            insert.setString(5, entry.detail());
            insert.setString(6, deed.mark());
            insert.setString(7, sum);
            insert.executeUpdate();
        }
        return new Head(entry.number(), sum);
    }

    /** What stands at the end; empty where nothing does. */
    static Optional<Head> head(Connection connection, boolean locked) throws SQLException {
        try (Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery(
                        "SELECT id, sum FROM audit ORDER BY id DESC LIMIT 1" + (locked ? " FOR UPDATE" : ""))) {
            return row.next() ? Optional.of(new Head(row.getLong(1), row.getString(2))) : Optional.empty();
        }
    }

    /** Whether there are entries, and none has a checksum yet: they are of a version before the chain. */
    static boolean notBegun(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery("SELECT COUNT(*), COUNT(sum) FROM audit")) {
            row.next();
            return row.getLong(1) > 0 && row.getLong(2) == 0;
        }
    }

    /** What is known to have been the last entry must be there still: a sentence where it is not, else empty. */
    static String missing(Connection connection, String kept) throws SQLException {
        if (kept.isEmpty()) {
            return "";
        }
        String[] head = kept.split(" ", 2);
        try (PreparedStatement statement = connection.prepareStatement("SELECT sum FROM audit WHERE id = ?")) {
            statement.setLong(1, Long.parseLong(head[0]));
            try (ResultSet row = statement.executeQuery()) {
                if (!row.next()) {
                    return "It was cut off: entry " + head[0] + " was there.";
                }
                return head[1].equals(row.getString(1))
                        ? ""
                        : "Entry " + head[0] + " is another than the one that was written.";
            }
        }
    }

    private static boolean isThere(Connection connection, String mark) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement("SELECT 1 FROM audit WHERE mark = ?")) {
            statement.setString(1, mark);
            try (ResultSet row = statement.executeQuery()) {
                return row.next();
            }
        }
    }

    /** Numbers and sums what was noted before entries had checksums. Only where none has one: else somebody took them away. */
    private Head begin(Connection connection) throws SQLException {
        List<AuditEntry> entries = new ArrayList<>();
        try (Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery(
                        "SELECT id, at, who, what, detail, sum FROM audit ORDER BY id FOR UPDATE")) {
            while (rows.next()) {
                if (rows.getString(6) != null) {
                    return new Head(lastNumber(rows), AuditChain.BEGIN);
                }
                entries.add(entry(rows));
            }
        }
        Head head = new Head(0, AuditChain.BEGIN);
        try (PreparedStatement update = connection.prepareStatement("UPDATE audit SET id = ?, sum = ? WHERE id = ?")) {
            for (AuditEntry old : entries) {
                AuditEntry entry = new AuditEntry(head.number() + 1, old.at(), old.who(), old.what(), old.detail());
                head = new Head(entry.number(), AuditChain.sum(secrets, head.sum(), entry));
                update.setLong(1, entry.number());
                update.setString(2, head.sum());
                update.setLong(3, old.number());
                update.executeUpdate();
            }
        }
        return head;
    }

    private static long lastNumber(ResultSet rows) throws SQLException {
        long last = rows.getLong(1);
        while (rows.next()) {
            last = rows.getLong(1);
        }
        return last;
    }

    /** The entry of a row with the columns id, at, who, what and detail. */
    public static AuditEntry entry(ResultSet rows) throws SQLException {
        return new AuditEntry(
                rows.getLong(1),
                rows.getObject(2, LocalDateTime.class).toInstant(ZoneOffset.UTC),
                rows.getString(3),
                rows.getString(4),
                rows.getString(5));
    }

    /** Walks along all of it. */
    AuditChain.Walk walk(Connection connection) throws SQLException {
        AuditChain.Walk walk = new AuditChain.Walk(secrets);
        connection.setAutoCommit(false);
        try (Statement statement = connection.createStatement()) {
            statement.setFetchSize(1000);
            try (ResultSet rows =
                    statement.executeQuery("SELECT id, at, who, what, detail, sum FROM audit ORDER BY id")) {
                while (rows.next()) {
                    String sum = rows.getString(6);
                    if (!walk.next(entry(rows), sum == null ? "" : sum)) {
                        break;
                    }
                }
            }
        } finally {
            connection.rollback();
            connection.setAutoCommit(true);
        }
        return walk;
    }
}
