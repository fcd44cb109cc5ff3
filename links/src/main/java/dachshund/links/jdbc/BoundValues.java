package dachshund.links.jdbc;

import dachshund.core.reader.Period;
import dachshund.core.reader.Periods;
import java.math.BigDecimal;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;

/** The values of a query's parameters; periods are a table of values. */
final class BoundValues {

    private static final String ROW = "(?, ?, ?, ?)";

    private BoundValues() {}

    /** What stands in the statement for each. */
    static List<String> marks(List<Object> values) {
        return values.stream().map(BoundValues::mark).toList();
    }

    private static String mark(Object value) {
        return value instanceof Periods periods
                ? "(WITH periods (name, start, begins, ends) AS (VALUES "
                        + String.join(", ", Collections.nCopies(periods.all().size(), ROW))
                        + ") SELECT name, start, begins, ends FROM periods)"
                : "?";
    }

    /** The same, as a server counts that numbers them. */
    static List<String> numbered(List<Object> values) {
        List<String> all = new ArrayList<>();
        int number = 0;
        for (String mark : marks(values)) {
            StringBuilder numbered = new StringBuilder();
            for (int i = 0; i < mark.length(); i++) {
                if (mark.charAt(i) == '?') {
                    numbered.append('$').append(++number);
                } else {
                    numbered.append(mark.charAt(i));
                }
            }
            all.add(numbered.toString());
        }
        return all;
    }

    static void bind(List<Object> values, PreparedStatement statement, JdbcEngine engine, ZoneId zone)
            throws SQLException {
        int at = 1;
        for (Object value : values) {
            if (value instanceof Periods periods) {
                at = bind(periods, at, statement, engine, zone);
            } else if (value instanceof Instant time) {
                engine.bindTime(statement, at++, time, zone);
            } else {
                engine.bindValue(statement, at++, value);
            }
        }
    }

    private static int bind(Periods periods, int first, PreparedStatement statement, JdbcEngine engine, ZoneId zone)
            throws SQLException {
        int at = first;
        boolean clock = periods.how() == Periods.Written.LOCAL
                || periods.how() == Periods.Written.TIMES && !engine.bindsInstants();
        List<Periods.Local> local = clock ? periods.local(zone) : List.of();
        for (int i = 0; i < periods.all().size(); i++) {
            Period each = periods.all().get(i);
            engine.bindValue(statement, at++, each.name());
            engine.bindTime(statement, at++, each.from(), zone);
            if (clock) {
                // Written in a zone without changes, the clock shows the same.
                engine.bindTime(statement, at++, utc(local.get(i).from()), ZoneOffset.UTC);
                engine.bindTime(statement, at++, utc(local.get(i).to()), ZoneOffset.UTC);
            } else if (periods.how() == Periods.Written.TIMES) {
                engine.bindTime(statement, at++, each.from(), zone);
                engine.bindTime(statement, at++, each.to(), zone);
            } else {
                boolean seconds = periods.how() == Periods.Written.SECONDS;
                engine.bindValue(statement, at++, since1970(each.from(), seconds));
                engine.bindValue(statement, at++, since1970(each.to(), seconds));
            }
        }
        return at;
    }

    private static Instant utc(LocalDateTime clock) {
        return clock.toInstant(ZoneOffset.UTC);
    }

    private static BigDecimal since1970(Instant at, boolean seconds) {
        return BigDecimal.valueOf(seconds ? at.getEpochSecond() : at.toEpochMilli());
    }
}
