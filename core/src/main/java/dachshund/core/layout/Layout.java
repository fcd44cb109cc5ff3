package dachshund.core.layout;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/** The design of a table: its columns in order. One column per tag; the other shapes come later. */
public record Layout(List<Column> columns) {

    public Layout {
        columns = List.copyOf(columns);
    }

    /** What a new recorder begins with: an auto-number key, the record time and the row identity. */
    public static Layout proposed() {
        return new Layout(List.of(
                Column.of("id", SqlType.BIGINT, new ColumnSource.AutoNumber()),
                Column.of("record_time", SqlType.timestamp(3), new ColumnSource.FromRun(ColumnSource.Variable.RECORD_TIME)),
                Column.of("row_id", SqlType.text(40), new ColumnSource.FromRun(ColumnSource.Variable.ROW_ID))));
    }

    /** The columns that an insert names: all but those the database numbers. */
    public List<Column> written() {
        return columns.stream().filter(column -> !column.isAutoNumber()).toList();
    }

    public Optional<Column> rowIdColumn() {
        return columns.stream().filter(Column::isRowId).findFirst();
    }

    public Layout with(int index, Column column) {
        List<Column> changed = new ArrayList<>(columns);
        changed.set(index, column);
        return new Layout(changed);
    }

    public Layout without(int index) {
        List<Column> changed = new ArrayList<>(columns);
        changed.remove(index);
        return new Layout(changed);
    }

    public Layout plus(Column column) {
        List<Column> changed = new ArrayList<>(columns);
        changed.add(column);
        return new Layout(changed);
    }

    public Layout moved(int from, int to) {
        List<Column> changed = new ArrayList<>(columns);
        changed.add(to, changed.remove(from));
        return new Layout(changed);
    }

    /** A name made from the wish that no column has yet: lower case, letters, digits and underscores, 60 at most. */
    public String freeName(String wish) {
        String base = wish.toLowerCase(Locale.ROOT).replaceAll("[^\\p{L}\\p{N}]+", "_").replaceAll("^_+|_+$", "");
        base = base.isEmpty() ? "column" : base.substring(0, Math.min(60, base.length()));
        Set<String> taken = columns.stream().map(column -> column.name().toLowerCase(Locale.ROOT)).collect(Collectors.toSet());
        String name = base;
        for (int n = 2; taken.contains(name); n++) {
            name = base + "_" + n;
        }
        return name;
    }
}
