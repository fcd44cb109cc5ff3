package dachshund.office.backfill;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType.Family;
import dachshund.core.row.Row;
import java.math.BigDecimal;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.NavigableMap;
import java.util.Objects;
import java.util.TreeMap;

/**
 * Rows of a window as a table has them, to be compared with those that would be made. Rows of one record time, and of one tag
 * where there is one row a tag, are the same row; where a row follows a change, its record time is when that arrived, which
 * the archive does not know, so a few seconds are as good.
 */
final class TableRows {

    private static final ObjectMapper JSON = new ObjectMapper();
    private static final Duration ABOUT = Duration.ofSeconds(5);
    private static final double FLOAT = 1e-6;
    private static final double DOUBLE = 1e-12;

    /** How a row that would be made stands to the table. */
    enum Is {
        MISSING,
        EQUAL,
        DIFFERENT
    }

    private static final class There {
        private final Map<String, Object> cells;
        private boolean taken;

        There(Map<String, Object> cells) {
            this.cells = cells;
        }
    }

    private final Layout layout;
    private final Column time;
    private final Duration near;
    private final boolean byChanges;
    private final Map<Object, NavigableMap<Instant, List<There>>> rows = new HashMap<>();

    /** @param byChanges whether rows follow changes, and not the clock */
    TableRows(Layout layout, boolean byChanges) {
        this.layout = layout;
        this.byChanges = byChanges;
        this.time = time(layout);
        this.near = byChanges
                ? ABOUT
                : Duration.ofSeconds(1)
                        .dividedBy((long) Math.pow(10, time.type().size()))
                        .minusNanos(1);
    }

    static Column time(Layout layout) {
        return layout.recordTimeColumn()
                .orElseThrow(
                        () -> new IllegalArgumentException(
                                "No column has the record time as a time stamp, so nobody can tell which rows are there. Add one, or it is not for backfilling."));
    }

    /** How far around a window rows have to be known. */
    Duration near() {
        return near;
    }

    void add(List<String> names, List<Object> cells) {
        Map<String, Object> row = new HashMap<>();
        for (int i = 0; i < names.size(); i++) {
            row.put(names.get(i), cells.get(i));
        }
        if (row.get(time.name()) instanceof Instant at) {
            rows.computeIfAbsent(tag(row), none -> new TreeMap<>())
                    .computeIfAbsent(at, none -> new ArrayList<>())
                    .add(new There(row));
        }
    }

    private Object tag(Map<String, Object> row) {
        return layout.columns().stream()
                .filter(column -> column.from().equals(new ColumnSource.FromLine(ColumnSource.LineFact.NAME)))
                .findFirst()
                .map(column -> Objects.toString(row.get(column.name()), ""))
                .orElse("");
    }

    /** Each row of the table answers for one. */
    Is compare(Row made) {
        Map<String, Object> cells = cells(layout, made);
        NavigableMap<Instant, List<There>> theirs = rows.getOrDefault(tag(cells), new TreeMap<>());
        Instant at = (Instant) cells.get(time.name());
        boolean any = false;
        for (List<There> some :
                theirs.subMap(at.minus(near), true, at.plus(near), true).values()) {
            for (There each : some) {
                if (!each.taken && equal(cells, each.cells)) {
                    each.taken = true;
                    return Is.EQUAL;
                }
                any = true;
            }
        }
        return any ? Is.DIFFERENT : Is.MISSING;
    }

    static Map<String, Object> cells(Layout layout, Row row) {
        Map<String, Object> cells = new HashMap<>();
        List<Column> written = layout.written();
        for (int i = 0; i < written.size(); i++) {
            cells.put(written.get(i).name(), row.cells()[i]);
        }
        return cells;
    }

    private boolean equal(Map<String, Object> made, Map<String, Object> there) {
        return layout.written().stream()
                .filter(column -> !column.isRowId() && !column.equals(time) && there.containsKey(column.name()))
                .filter(column -> !byChanges || column.type().family() != Family.TIMESTAMP)
                .allMatch(column -> same(made.get(column.name()), there.get(column.name()), column));
    }

    static boolean same(Object made, Object there, Column column) {
        if (made == null || there == null) {
            return made == there;
        }
        if (made instanceof Number a && there instanceof Number b) {
            if (a instanceof Double || a instanceof Float || b instanceof Double || b instanceof Float) {
                double off = Math.abs(a.doubleValue() - b.doubleValue());
                return off
                        <= Math.max(Math.abs(a.doubleValue()), Math.abs(b.doubleValue()))
                                * (b instanceof Float ? FLOAT : DOUBLE);
            }
            return new BigDecimal(a.toString()).compareTo(new BigDecimal(b.toString())) == 0;
        }
        if (made instanceof Instant a && there instanceof Instant b) {
            return Duration.between(a, b).abs().compareTo(Duration.ofSeconds(1).dividedBy((long)
                            Math.pow(10, column.type().size())))
                    < 0;
        }
        if (column.type().family() == Family.JSON) {
            try {
                return JSON.readTree(made.toString()).equals(JSON.readTree(there.toString()));
            } catch (JsonProcessingException none) {
                return made.toString().equals(there.toString());
            }
        }
        return made.toString().strip().equals(there.toString().strip());
    }
}
