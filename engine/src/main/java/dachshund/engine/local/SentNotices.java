package dachshund.engine.local;

import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;

/** What became of notices, the last of them. */
public final class SentNotices {

    private static final int MOST = 1000;

    private final LocalStore local;

    /**
     * One notice to one recipient.
     *
     * @param at      when that was known
     * @param rule    name of the rule
     * @param to      who it went to
     * @param outcome {@code sent}, or why it was given up, in a sentence
     */
    public record Sent(Instant at, String rule, String to, String subject, String outcome) {}

    SentNotices(LocalStore local) {
        this.local = local;
        local.make(
                "sent_notice (nth INTEGER PRIMARY KEY, at TEXT NOT NULL, rule TEXT NOT NULL, recipient TEXT NOT NULL, subject TEXT NOT NULL, outcome TEXT NOT NULL)");
    }

    /** Keeps what became of one, and that its lane has got so far: both or neither. */
    public void keep(Sent sent, String lane, long nth) {
        local.together(connection -> {
            try (PreparedStatement insert = LocalStore.prepare(
                            connection,
                            "INSERT INTO sent_notice (at, rule, recipient, subject, outcome) VALUES (?, ?, ?, ?, ?)",
                            sent.at().toString(),
                            sent.rule(),
                            sent.to(),
                            sent.subject(),
                            sent.outcome());
                    PreparedStatement forget = LocalStore.prepare(
                            connection,
                            "DELETE FROM sent_notice WHERE nth <= (SELECT MAX(nth) FROM sent_notice) - ?",
                            MOST);
                    PreparedStatement cursor = LocalStore.prepare(
                            connection,
                            "INSERT INTO fact VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value",
                            cursor(lane),
                            Long.toString(nth))) {
                insert.executeUpdate();
                forget.executeUpdate();
                return cursor.executeUpdate();
            }
        });
    }

    private static String cursor(String lane) {
        return "notice cursor " + lane;
    }

    /** The running number of the last notice of a lane whose fate is known. */
    public long settled(String lane) {
        return local.remembered(cursor(lane)).map(Long::parseLong).orElse(0L);
    }

    /** The newest ones, newest first. */
    public List<Sent> newest(int most) {
        return local.run(connection -> {
            try (PreparedStatement statement = LocalStore.prepare(
                            connection,
                            "SELECT at, rule, recipient, subject, outcome FROM sent_notice ORDER BY nth DESC LIMIT ?",
                            most);
                    ResultSet rows = statement.executeQuery()) {
                List<Sent> newest = new ArrayList<>();
                while (rows.next()) {
                    newest.add(new Sent(
                            Instant.parse(rows.getString(1)),
                            rows.getString(2),
                            rows.getString(3),
                            rows.getString(4),
                            rows.getString(5)));
                }
                return newest;
            }
        });
    }
}
