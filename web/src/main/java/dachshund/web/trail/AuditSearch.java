package dachshund.web.trail;

import dachshund.core.audit.AuditEntry;
import dachshund.office.audit.AuditTable;
import dachshund.office.own.DachshundSettings;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.format.DateTimeParseException;
import java.util.ArrayList;
import java.util.List;
import javax.sql.DataSource;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.jdbc.datasource.DataSourceUtils;
import org.springframework.stereotype.Component;

/** Finds entries of the audit. */
@Component
class AuditSearch {

    private static final int MOST_WORDS = 10;

    private final JdbcClient jdbc;
    private final DataSource dataSource;
    private final ZoneId zone;

    /**
     * What is looked for; each part may be empty.
     *
     * @param words all of which stand somewhere in the entry, in any order
     * @param who   exactly
     * @param what  exactly
     * @param from  first day, plant time
     * @param to    last day, plant time
     */
    record Wanted(String words, String who, String what, String from, String to) {

        /** Whether nothing in particular is looked for. */
        public boolean all() {
            return (words + who + what + from + to).isBlank();
        }
    }

    /** Takes one entry with its checksum. */
    @FunctionalInterface
    interface Taker {
        void take(AuditEntry entry, String sum) throws java.io.IOException;
    }

    private record Condition(String sql, List<Object> values) {}

    AuditSearch(JdbcClient jdbc, DataSource dataSource, DachshundSettings settings) {
        this.jdbc = jdbc;
        this.dataSource = dataSource;
        this.zone = settings.zone();
    }

    /** @throws IllegalArgumentException with a sentence, where a day cannot be read */
    private Condition condition(Wanted wanted) {
        StringBuilder sql = new StringBuilder("1 = 1");
        List<Object> values = new ArrayList<>();
        String[] words = wanted.words().strip().split("\\s+");
        for (int i = 0; i < words.length && i < MOST_WORDS; i++) {
            if (!words[i].isEmpty()) {
                sql.append(" AND CONCAT_WS(' ', who, what, detail) LIKE ?");
                values.add("%" + words[i].replaceAll("[\\\\%_]", "\\\\$0") + "%");
            }
        }
        if (!wanted.who().isEmpty()) {
            sql.append(" AND who = ?");
            values.add(wanted.who());
        }
        if (!wanted.what().isEmpty()) {
            sql.append(" AND what = ?");
            values.add(wanted.what());
        }
        if (!wanted.from().isBlank()) {
            sql.append(" AND at >= ?");
            values.add(begin(wanted.from(), 0));
        }
        if (!wanted.to().isBlank()) {
            sql.append(" AND at < ?");
            values.add(begin(wanted.to(), 1));
        }
        return new Condition(sql.toString(), values);
    }

    private LocalDateTime begin(String day, int daysLater) {
        try {
            Instant at = LocalDate.parse(day.strip())
                    .plusDays(daysLater)
                    .atStartOfDay(zone)
                    .toInstant();
            return LocalDateTime.ofInstant(at, ZoneOffset.UTC);
        } catch (DateTimeParseException unread) {
            throw new IllegalArgumentException("\"" + day.strip() + "\" is no day. Write it like 2026-11-30.", unread);
        }
    }

    /**
     * Newest first.
     *
     * @param before only entries with a lower number; 0 for all
     * @throws IllegalArgumentException with a sentence, where a day cannot be read
     */
    List<AuditEntry> find(Wanted wanted, long before, int most) {
        Condition condition = condition(wanted);
        List<Object> values = new ArrayList<>(condition.values());
        values.add(before == 0 ? Long.MAX_VALUE : before);
        values.add(most);
        return jdbc.sql("SELECT id, at, who, what, detail FROM audit WHERE " + condition.sql()
                        + " AND id < ? ORDER BY id DESC LIMIT ?")
                .params(values)
                .query((row, n) -> AuditTable.entry(row))
                .list();
    }

    /** Oldest first, as they come from the database. */
    void each(Wanted wanted, Taker taker) throws java.io.IOException {
        Condition condition = condition(wanted);
        Connection connection = DataSourceUtils.getConnection(dataSource);
        try (PreparedStatement statement = connection.prepareStatement(
                "SELECT id, at, who, what, detail, sum FROM audit WHERE " + condition.sql() + " ORDER BY id")) {
            statement.setFetchSize(1000);
            for (int i = 0; i < condition.values().size(); i++) {
                statement.setObject(i + 1, condition.values().get(i));
            }
            try (ResultSet rows = statement.executeQuery()) {
                while (rows.next()) {
                    String sum = rows.getString(6);
                    taker.take(AuditTable.entry(rows), sum == null ? "" : sum);
                }
            }
        } catch (SQLException away) {
            throw new org.springframework.dao.DataAccessResourceFailureException("The audit cannot be read", away);
        } finally {
            DataSourceUtils.releaseConnection(connection, dataSource);
        }
    }

    /** Everybody who stands in it. */
    List<String> people() {
        return jdbc.sql("SELECT DISTINCT who FROM audit ORDER BY who LIMIT 500")
                .query(String.class)
                .list();
    }

    /** Every deed that stands in it. */
    List<String> deeds() {
        return jdbc.sql("SELECT DISTINCT what FROM audit ORDER BY what LIMIT 500")
                .query(String.class)
                .list();
    }
}
