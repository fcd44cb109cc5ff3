package dachshund.core.layout;

import dachshund.core.tag.TagRef;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.UnaryOperator;
import java.util.stream.Collectors;

/**
 * The design of a table or file.
 *
 * @param shape            how tags lie in it
 * @param columns          in order
 * @param lines            the tags of a layout with a row per tag; empty for other shapes
 * @param changedLinesOnly whether a When that fires on a change writes rows of the changed tags alone
 * @param key              names of the columns that tell one row from another for updates; may be empty
 * @param indexes          names of the columns of each further index
 */
public record Layout(
        Shape shape,
        List<Column> columns,
        List<Line> lines,
        boolean changedLinesOnly,
        List<String> key,
        List<List<String>> indexes) {

    public Layout {
        columns = List.copyOf(columns);
        lines = List.copyOf(lines);
        key = List.copyOf(key);
        indexes = indexes.stream().map(List::copyOf).toList();
    }

    /** A column per tag, without key or index of its own. */
    public Layout(List<Column> columns) {
        this(Shape.COLUMN_PER_TAG, columns, List.of(), true, List.of(), List.of());
    }

    /** What a new recorder begins with: an auto-number key, the record time and the row identity. */
    public static Layout proposed() {
        return proposed(Shape.COLUMN_PER_TAG);
    }

    public static Layout proposed(Shape shape) {
        List<Column> columns = new ArrayList<>(List.of(
                Column.of("id", SqlType.BIGINT, new ColumnSource.AutoNumber()),
                Column.of(
                        "record_time",
                        SqlType.timestamp(3),
                        new ColumnSource.FromRun(ColumnSource.Variable.RECORD_TIME)),
                Column.of("row_id", SqlType.text(40), new ColumnSource.FromRun(ColumnSource.Variable.ROW_ID))));
        if (shape == Shape.ROW_PER_TAG) {
            columns.add(new Column(
                    "tag",
                    SqlType.text(120),
                    new ColumnSource.FromLine(ColumnSource.LineFact.NAME),
                    true,
                    BadQuality.WRITE_NULL));
            columns.add(Column.of(
                    "equipment", SqlType.text(120), new ColumnSource.FromLine(ColumnSource.LineFact.EQUIPMENT)));
            columns.add(
                    Column.of("value_number", SqlType.DOUBLE, new ColumnSource.FromLine(ColumnSource.LineFact.NUMBER)));
            columns.add(
                    Column.of("value_text", SqlType.text(255), new ColumnSource.FromLine(ColumnSource.LineFact.TEXT)));
            columns.add(
                    Column.of("quality", SqlType.text(120), new ColumnSource.FromLine(ColumnSource.LineFact.QUALITY)));
            columns.add(Column.of(
                    "source_time", SqlType.timestamp(6), new ColumnSource.FromLine(ColumnSource.LineFact.SOURCE_TIME)));
        } else if (shape == Shape.DOCUMENT) {
            columns.add(Column.of("document", SqlType.JSON, new ColumnSource.Document(List.of())));
        }
        return new Layout(shape, columns, List.of(), true, List.of(), List.of());
    }

    /** The columns that an insert names: all but those the database numbers. */
    public List<Column> written() {
        return columns.stream().filter(column -> !column.isAutoNumber()).toList();
    }

    public Optional<Column> rowIdColumn() {
        return columns.stream().filter(Column::isRowId).findFirst();
    }

    /** The first that has the record time as a time stamp. */
    public Optional<Column> recordTimeColumn() {
        return columns.stream()
                .filter(column -> column.isRecordTime() && column.type().family() == SqlType.Family.TIMESTAMP)
                .findFirst();
    }

    public Optional<Column> column(String name) {
        return columns.stream()
                .filter(column -> column.name().equalsIgnoreCase(name))
                .findFirst();
    }

    /** Whether the column is part of the key. */
    public boolean isKey(String column) {
        return key.stream().anyMatch(column::equalsIgnoreCase);
    }

    /** The column that holds the document, in a layout of that shape. */
    public Optional<Column> documentColumn() {
        return columns.stream()
                .filter(column -> column.from() instanceof ColumnSource.Document)
                .findFirst();
    }

    /** Columns and the fields of documents in them. */
    public List<Column> columnsAndFields() {
        List<Column> all = new ArrayList<>();
        for (Column column : columns) {
            all.add(column);
            all.addAll(column.from().within());
        }
        return all;
    }

    /** The tags that it names itself; those behind properties of equipment are not among them. */
    public Set<TagRef> tags() {
        Set<TagRef> tags = new LinkedHashSet<>();
        lines.forEach(line -> tags.add(line.tag()));
        columnsAndFields().forEach(column -> tags.addAll(column.from().tags()));
        return tags;
    }

    /** What names in a formula over the row may mean: columns that hold the value of a tag. */
    public Map<String, TagRef> named() {
        Map<String, TagRef> named = new LinkedHashMap<>();
        for (Column column : columnsAndFields()) {
            if (column.from() instanceof ColumnSource.FromTag from
                    && from.aspect() == ColumnSource.Aspect.VALUE
                    && column.name().matches("[A-Za-z_][A-Za-z0-9_]*")) {
                named.put(column.name(), from.tag());
            }
        }
        return named;
    }

    public Layout withColumns(List<Column> other) {
        return new Layout(shape, other, lines, changedLinesOnly, key, indexes);
    }

    public Layout withLines(List<Line> other) {
        return new Layout(shape, columns, other, changedLinesOnly, key, indexes);
    }

    public Layout withKeys(List<String> otherKey, List<List<String>> otherIndexes) {
        return new Layout(shape, columns, lines, changedLinesOnly, otherKey, otherIndexes);
    }

    public Layout withChangedLinesOnly(boolean other) {
        return new Layout(shape, columns, lines, other, key, indexes);
    }

    /** Another column at the place; a new name is followed by key and indexes. */
    public Layout with(int index, Column column) {
        List<Column> changed = new ArrayList<>(columns);
        String was = changed.set(index, column).name();
        return withColumns(changed).keysMapped(names -> names.stream()
                .map(name -> name.equals(was) ? column.name() : name)
                .toList());
    }

    /** Without the column at the place; key and indexes lose it too. */
    public Layout without(int index) {
        List<Column> changed = new ArrayList<>(columns);
        String gone = changed.remove(index).name();
        return withColumns(changed)
                .keysMapped(names ->
                        names.stream().filter(name -> !name.equals(gone)).toList());
    }

    private Layout keysMapped(UnaryOperator<List<String>> change) {
        return withKeys(
                change.apply(key),
                indexes.stream().map(change).filter(index -> !index.isEmpty()).toList());
    }

    public Layout plus(Column column) {
        List<Column> changed = new ArrayList<>(columns);
        changed.add(column);
        return withColumns(changed);
    }

    public Layout moved(int from, int to) {
        List<Column> changed = new ArrayList<>(columns);
        changed.add(to, changed.remove(from));
        return withColumns(changed);
    }

    /** A name made from the wish that no column has yet: lower case, letters, digits and underscores, 60 at most. */
    public String freeName(String wish) {
        return freeName(wish, columns);
    }

    /** The same for a field of its document. */
    public static String freeName(String wish, List<Column> among) {
        String base = wish.toLowerCase(Locale.ROOT)
                .replaceAll("[^\\p{L}\\p{N}]+", "_")
                .replaceAll("^_+|_+$", "");
        base = base.isEmpty() ? "column" : base.substring(0, Math.min(60, base.length()));
        Set<String> taken = among.stream()
                .map(column -> column.name().toLowerCase(Locale.ROOT))
                .collect(Collectors.toSet());
        String name = base;
        for (int n = 2; taken.contains(name); n++) {
            name = base + "_" + n;
        }
        return name;
    }
}
