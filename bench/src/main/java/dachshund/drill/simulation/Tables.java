package dachshund.drill.simulation;

import dachshund.core.destination.RowBatch;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.StoreProblem.Kind;
import dachshund.core.destination.TableDescription;
import dachshund.core.destination.TryOutcome;
import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.core.source.LinkTest;
import dachshund.core.sql.Dialect;
import dachshund.core.sql.StandardDialect;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * A destination in memory that outlives the machine and misbehaves by chance: away, gone before or after the commit, a row
 * refused, a table in use or not there, an exception nobody knows. As files it takes one batch at a time, may break off in
 * the middle of it, and tells what stands at the end only.
 */
final class Tables implements RowStore {

    private final World world;
    private final boolean asFiles;
    private final Map<String, List<Row>> tables = new LinkedHashMap<>();
    private final Map<String, RowId> marks = new HashMap<>();
    boolean away;
    /** How likely each call is to go wrong in one way or another. */
    double trouble;
    /** A table that somebody else uses, or that is not there; empty where there is none. */
    String inUse = "";

    String missing = "";

    Tables(World world, boolean asFiles) {
        this.world = world;
        this.asFiles = asFiles;
    }

    /** Of all tables whose names begin so, one after the other. */
    List<List<Row>> beginning(String name) {
        return tables.entrySet().stream()
                .filter(each -> each.getKey().startsWith(name))
                .map(Map.Entry::getValue)
                .toList();
    }

    List<Row> rows(String table) {
        return tables.getOrDefault(table, List.of());
    }

    private StoreProblem problem(Kind kind, int batch, String sentence) {
        return new StoreProblem(kind, batch, sentence, null);
    }

    private void answer() throws StoreProblem {
        world.alive();
        if (away || world.chance(trouble / 2)) {
            throw problem(Kind.AWAY, -1, "The destination is away.");
        }
    }

    /** A value that no table takes. */
    static boolean refused(double value) {
        return value % 41 == 7;
    }

    /** The same value as one that every table takes. */
    static String mended(String text) {
        return refused(Double.parseDouble(text)) ? (long) Double.parseDouble(text) + ".25" : text;
    }

    private static boolean refused(Row row) {
        for (Object cell : row.cells()) {
            if (cell instanceof Double value && refused(value)) {
                return true;
            }
        }
        return false;
    }

    @Override
    public void write(List<RowBatch> batches) throws StoreProblem {
        world.moment();
        answer();
        for (int i = 0; i < batches.size(); i++) {
            check(batches.get(i), i);
        }
        if (world.chance(trouble / 4)) {
            throw problem(Kind.CLASHED, 0, "Given up for another one.");
        }
        if (world.chance(trouble / 4)) {
            throw new IllegalStateException("a defect of the driver");
        }
        if (asFiles && world.chance(trouble)) {
            breakOff(batches.get(0));
        }
        world.moment();
        for (RowBatch batch : batches) {
            put(batch, batch.rows().size());
        }
        world.moment();
        if (world.chance(trouble / 2)) {
            throw problem(Kind.AWAY, -1, "The connection broke while the commit was answered.");
        }
        if (world.chance(trouble / 4)) {
            throw new IllegalStateException("a defect of the driver, after the commit");
        }
    }

    private void check(RowBatch batch, int index) throws StoreProblem {
        String table = batch.table();
        if (!tables.containsKey(table) || table.equals(missing)) {
            throw problem(Kind.TABLE, index, "The table " + table + " is not there.");
        }
        if (table.equals(inUse)) {
            throw problem(Kind.BUSY, index, "The table " + table + " is in use.");
        }
        boolean unique = batch.layout().rowIdColumn().isPresent() && !asFiles;
        Set<RowId> there = unique ? rows(table).stream().map(Row::id).collect(Collectors.toSet()) : Set.of();
        for (Row row : batch.rows()) {
            if (refused(row)) {
                throw problem(Kind.CONTENT, index, "It does not fit.");
            }
            if (there.contains(row.id())) {
                throw problem(Kind.DUPLICATE, index, "It is there already.");
            }
        }
    }

    /** Some of the rows are written, and nobody knows which. */
    private void breakOff(RowBatch batch) throws StoreProblem {
        put(batch, world.random.nextInt(batch.rows().size() + 1));
        if (world.chance(0.5)) {
            throw problem(Kind.AWAY, -1, "It broke off.");
        }
        throw new IllegalStateException("it broke off, and nobody knows why");
    }

    private void put(RowBatch batch, int rows) {
        List<Row> written = batch.rows().subList(0, rows);
        tables.get(batch.table()).addAll(written);
        if (batch.mark() && rows == batch.rows().size()) {
            marks.put(batch.lane(), written.get(rows - 1).id());
        }
    }

    @Override
    public Set<RowId> landed(RowBatch batch) throws StoreProblem {
        answer();
        if (asFiles) {
            return ending(batch.rows().stream().map(Row::id).toList(), rows(batch.table()));
        }
        Set<RowId> there =
                new HashSet<>(rows(batch.table()).stream().map(Row::id).toList());
        there.retainAll(batch.rows().stream().map(Row::id).toList());
        return there;
    }

    /** The longest beginning of the rows that is the end of the file. */
    private static Set<RowId> ending(List<RowId> rows, List<Row> file) {
        for (int length = Math.min(rows.size(), file.size()); length > 0; length--) {
            List<RowId> head = rows.subList(0, length);
            if (head.equals(file.subList(file.size() - length, file.size()).stream()
                    .map(Row::id)
                    .toList())) {
                return Set.copyOf(head);
            }
        }
        return Set.of();
    }

    @Override
    public Optional<RowId> mark(String lane) throws StoreProblem {
        answer();
        return Optional.ofNullable(marks.get(lane));
    }

    @Override
    public boolean allOrNothing() {
        return !asFiles;
    }

    @Override
    public boolean tellsOfAll() {
        return !asFiles;
    }

    @Override
    public boolean writesAtOnce() {
        return !asFiles;
    }

    @Override
    public int atOnceBeside() {
        return 2;
    }

    @Override
    public Dialect dialect() {
        return new StandardDialect();
    }

    @Override
    public Optional<TableDescription> describe(String table) throws StoreProblem {
        answer();
        return tables.containsKey(table) && !table.equals(missing)
                ? Optional.of(new TableDescription(
                        table,
                        columns().stream()
                                .map(column -> new TableDescription.TableColumn(column, "", false, false))
                                .toList(),
                        List.of(),
                        true))
                : Optional.empty();
    }

    private static List<String> columns() {
        List<String> names = new ArrayList<>(
                Layout.proposed().columns().stream().map(Column::name).toList());
        names.add("v");
        names.add("w");
        return names;
    }

    @Override
    public void apply(List<String> statements) throws StoreProblem {
        answer();
        for (String sql : statements) {
            int from = sql.indexOf('"') + 1;
            String table = sql.substring(from, sql.indexOf('"', from));
            if (table.equals(missing)) {
                throw problem(Kind.TABLE, -1, "Nobody may make the table " + table + " now.");
            }
            tables.computeIfAbsent(table, name -> new ArrayList<>());
        }
    }

    @Override
    public LinkTest test(Duration limit) {
        return LinkTest.good("", "");
    }

    @Override
    public List<String> tables() {
        return List.copyOf(tables.keySet());
    }

    @Override
    public TryOutcome tryOut(RowBatch one) {
        throw new UnsupportedOperationException();
    }

    @Override
    public TablePage lastRows(String table, Layout layout, int limit) {
        throw new UnsupportedOperationException();
    }

    @Override
    public void readAll(String table, Layout layout, TakeRow taker) {
        throw new UnsupportedOperationException();
    }

    @Override
    public void close() {
        // the tables outlive whoever writes into them
    }
}
