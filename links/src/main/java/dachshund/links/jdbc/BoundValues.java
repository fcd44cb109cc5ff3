package dachshund.links.jdbc;

import dachshund.core.reader.Period;
import dachshund.core.reader.Periods;
import dachshund.core.sql.Dialect;
import java.math.BigDecimal;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.sql.Types;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;

/** The values of a query's parameters; periods are a table of values. */
final class BoundValues {

    /** A type that holds what a clock shows, in every engine that knows another one. */
    private static final String LOCAL_TYPE = "timestamp";

    private BoundValues() {}

    /** What stands in the statement for each. */
    static List<String> marks(List<Object> values, Dialect dialect) {
        return values.stream().map(value -> mark(value, dialect)).toList();
    }

    private static String mark(Object value, Dialect dialect) {
        if (!(value instanceof Periods periods)) {
            return "?";
        }
        // Typed, so that they compare with columns of times as they are.
        String bound =
                switch (periods.how()) {
                    case TIMES -> dialect.asTime("?");
                    case LOCAL -> dialect.asTime("?", LOCAL_TYPE);
                    default -> "?";
                };
        String row = "(?, " + dialect.asTime("?") + ", " + bound + ", " + bound + ")";
        return "(WITH periods (name, start, begins, ends) AS (VALUES "
                + String.join(", ", Collections.nCopies(periods.all().size(), row))
                + ") SELECT name, start, begins, ends FROM periods)";
    }

    /** The same, as a server counts that numbers them. */
    static List<String> numbered(List<Object> values, Dialect dialect) {
        List<String> all = new ArrayList<>();
        int number = 0;
        for (String mark : marks(values, dialect)) {
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

    /** @param values null for none; else as {@link JdbcEngine#bindValue} takes them, times and periods */
    static void bind(List<Object> values, PreparedStatement statement, JdbcEngine engine, ZoneId zone)
            throws SQLException {
        int at = 1;
        for (Object value : values) {
            if (value == null) {
                statement.setNull(at++, Types.NULL);
            } else if (value instanceof Periods periods) {
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
