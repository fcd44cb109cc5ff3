package dachshund.core.row;

import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashSet;
import java.util.List;
import java.util.Set;

/**
 * Rows that were made under one layout as another layout would hold them. A column is the one of its name, or else the one that
 * shows the same thing under another name. What the first layout had not is empty, a constant, or a fact of the row itself.
 */
public final class Redesign {

    private static final int NOWHERE = -1;

    private final List<Column> before;
    private final List<Column> after;
    private final int[] from;
    private final ZoneId zone;

    /** @param zone plant time, for dates that are taken out of instants */
    public Redesign(Layout before, Layout after, ZoneId zone) {
        this.before = before.written();
        this.after = after.written();
        this.zone = zone;
        this.from = new int[this.after.size()];
        Set<Integer> used = new HashSet<>();
        Arrays.fill(from, NOWHERE);
        for (int i = 0; i < from.length; i++) {
            from[i] = named(this.after.get(i).name());
            used.add(from[i]);
        }
        for (int i = 0; i < from.length; i++) {
            if (from[i] == NOWHERE) {
                from[i] = same(this.after.get(i).from(), used);
                used.add(from[i]);
            }
        }
    }

    private int named(String name) {
        for (int i = 0; i < before.size(); i++) {
            if (before.get(i).name().equalsIgnoreCase(name)) {
                return i;
            }
        }
        return NOWHERE;
    }

    private int same(ColumnSource source, Set<Integer> used) {
        for (int i = 0; i < before.size(); i++) {
            if (!used.contains(i) && before.get(i).from().equals(source)) {
                return i;
            }
        }
        return NOWHERE;
    }

    /** Names of columns whose values the second layout has no place for. */
    public List<String> lost() {
        Set<Integer> used = new HashSet<>();
        Arrays.stream(from).forEach(used::add);
        List<String> lost = new ArrayList<>();
        for (int i = 0; i < before.size(); i++) {
            if (!used.contains(i)) {
                lost.add(before.get(i).name());
            }
        }
        return lost;
    }

    /** The row under the second layout, or why it does not fit it. Its identity stays. */
    public Made of(Row row) {
        Object[] cells = new Object[from.length];
        for (int i = 0; i < cells.length; i++) {
            Column column = after.get(i);
            try {
                Object value = value(row, i);
                cells[i] = value == null ? null : Conversion.convert(value, column.type(), zone);
            } catch (Conversion.DoesNotFit problem) {
                return refused(row, column.name() + " " + problem.getMessage() + ".");
            } catch (RuntimeException strange) {
                return refused(row, column.name() + " cannot be converted: " + strange + ".");
            }
            if (cells[i] == null && column.required()) {
                return refused(row, column.name() + " is required, and the row was made without it.");
            }
        }
        return new Made.Whole(new Row(row.id(), row.recordTime(), cells));
    }

    private Object value(Row row, int at) {
        if (from[at] != NOWHERE) {
            return row.cells()[from[at]];
        }
        ColumnSource source = after.get(at).from();
        if (source instanceof ColumnSource.Constant constant) {
            return constant.text();
        }
        if (source instanceof ColumnSource.FromRun run) {
            return switch (run.variable()) {
                case RECORD_TIME -> row.recordTime();
                case ROW_ID -> row.id().toString();
                case SEQUENCE -> row.id().sequence();
                default -> null;
            };
        }
        return null;
    }

    private Made.Refused refused(Row row, String reason) {
        List<String> values = Arrays.stream(row.cells()).map(Redesign::shown).toList();
        return new Made.Refused(row.id(), row.recordTime(), values, reason);
    }

    private static String shown(Object cell) {
        try {
            return cell == null ? "" : Conversion.plain(cell);
        } catch (RuntimeException strange) {
            return "?";
        }
    }
}
