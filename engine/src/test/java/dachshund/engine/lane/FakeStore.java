package dachshund.engine.lane;

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
import java.util.Collections;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Consumer;
import java.util.function.Predicate;
import java.util.stream.Collectors;

/** A destination in memory with seeded faults: away before or after the commit, refused rows, missing tables. */
class FakeStore implements RowStore {

    final Map<String, List<Row>> tables = new ConcurrentHashMap<>();
    final Map<String, RowId> marks = new ConcurrentHashMap<>();
    final Random random;
    double awayBefore;
    double awayAfterCommit;
    boolean away;
    String lockedTable = "";
    String busyTable = "";
    Predicate<Row> refused = row -> false;
    /** Throws whatever it likes when a batch is to be written. */
    Thrower thrower = batch -> {};
    /** Columns that their owner has dropped. */
    final Set<String> gone = new HashSet<>();
    /** What its tables have. */
    Layout layout = Layout.proposed();
    /** Other databases of its server. */
    final Map<String, FakeStore> others = new HashMap<>();
    /** How many calls it takes beside one. */
    int beside = 1;
    /** Whether it takes several transactions at once. */
    boolean writesAtOnce;
    /** Whether it can tell of more than its last batch. */
    boolean tellsOfAll = true;

    int transactions;
    final List<String> made = new ArrayList<>();

    /** Done at the beginning of each transaction, by the thread that writes it, beside others. */
    Consumer<List<RowBatch>> beginning = batches -> {};

    interface Thrower {
        void maybe(RowBatch batch) throws StoreProblem;
    }

    FakeStore(long seed) {
        random = new Random(seed);
    }

    /** One that compares rows with the end of a table, as files are, and so can tell of its last batch only. */
    static FakeStore thatComparesEnds() {
        FakeStore ends = new FakeStore(1) {
            @Override
            public Set<RowId> landed(RowBatch batch) {
                List<RowId> there = rows(batch.table()).stream().map(Row::id).toList();
                List<RowId> asked = batch.rows().stream().map(Row::id).toList();
                int most = Math.min(there.size(), asked.size());
                while (most > 0
                        && !there.subList(there.size() - most, there.size()).equals(asked.subList(0, most))) {
                    most--;
                }
                return new HashSet<>(asked.subList(0, most));
            }
        };
        ends.tellsOfAll = false;
        return ends;
    }

    List<Row> rows(String table) {
        return tables.getOrDefault(table, List.of());
    }

    private void answer() throws StoreProblem {
        if (away || random.nextDouble() < awayBefore) {
            throw new StoreProblem(Kind.AWAY, -1, "The database is away.", null);
        }
    }

    @Override
    public RowStore in(String database) {
        if (database.isEmpty()) {
            return this;
        }
        FakeStore there = others.get(database);
        return there != null
                ? there
                : new FakeStore(1) {
                    @Override
                    public void createDatabase() {
                        FakeStore.this.others.put(database, new FakeStore(1));
                    }
                };
    }

    @Override
    public List<String> databases() throws StoreProblem {
        answer();
        return List.copyOf(others.keySet());
    }

    @Override
    public int atOnceBeside() {
        if (beside < 0) {
            throw new IllegalStateException("a store's defect");
        }
        return beside;
    }

    @Override
    public boolean writesAtOnce() {
        return writesAtOnce;
    }

    @Override
    public boolean tellsOfAll() {
        return tellsOfAll;
    }

    @Override
    public Dialect dialect() {
        return new StandardDialect();
    }

    @Override
    public Optional<TableDescription> describe(String table) throws StoreProblem {
        answer();
        return tables.containsKey(table)
                ? Optional.of(new TableDescription(
                        table,
                        layout.columns().stream()
                                .map(Column::name)
                                .filter(column -> !gone.contains(column))
                                .map(column -> new TableDescription.TableColumn(column, "", false, false))
                                .toList(),
                        List.of(),
                        true))
                : Optional.empty();
    }

    @Override
    public void apply(List<String> statements) throws StoreProblem {
        answer();
        made.addAll(statements);
        for (String sql : statements) {
            tables.put(
                    sql.substring(sql.indexOf('"') + 1, sql.indexOf('"', sql.indexOf('"') + 1)),
                    Collections.synchronizedList(new ArrayList<>()));
        }
    }

    @Override
    public void write(List<RowBatch> batches) throws StoreProblem {
        beginning.accept(batches);
        answer();
        for (int i = 0; i < batches.size(); i++) {
            try {
                thrower.maybe(batches.get(i));
            } catch (StoreProblem problem) {
                throw problem.batch() != 0
                        ? problem
                        : new StoreProblem(problem.kind(), i, problem.getMessage(), problem.getCause());
            }
        }
        commit(batches);
    }

    private synchronized void commit(List<RowBatch> batches) throws StoreProblem {
        for (int i = 0; i < batches.size(); i++) {
            RowBatch batch = batches.get(i);
            if (batch.table().equals(lockedTable) || !tables.containsKey(batch.table())) {
                throw new StoreProblem(Kind.TABLE, i, "The table " + batch.table() + " is not there.", null);
            }
            if (batch.table().equals(busyTable)) {
                throw new StoreProblem(Kind.BUSY, i, "The table " + batch.table() + " is locked.", null);
            }
            if (batch.layout().columns().stream().anyMatch(column -> gone.contains(column.name()))) {
                throw new StoreProblem(Kind.TABLE, i, "There is no such column.", null);
            }
            Set<RowId> there = rows(batch.table()).stream().map(Row::id).collect(Collectors.toSet());
            for (Row row : batch.rows()) {
                if (refused.test(row)) {
                    throw new StoreProblem(Kind.CONTENT, i, "The database refused it: out of range.", null);
                }
                if (tellsOfAll && batch.layout().rowIdColumn().isPresent() && there.contains(row.id())) {
                    throw new StoreProblem(Kind.DUPLICATE, i, "Duplicate entry.", null);
                }
            }
        }
        transactions++;
        for (RowBatch batch : batches) {
            tables.get(batch.table()).addAll(batch.rows());
            if (batch.mark()) {
                marks.put(
                        batch.lane(), batch.rows().get(batch.rows().size() - 1).id());
            }
        }
        if (random.nextDouble() < awayAfterCommit) {
            throw new StoreProblem(Kind.AWAY, -1, "The connection broke while the commit was answered.", null);
        }
    }

    @Override
    public Set<RowId> landed(RowBatch batch) throws StoreProblem {
        answer();
        Set<RowId> there =
                new HashSet<>(rows(batch.table()).stream().map(Row::id).toList());
        there.retainAll(batch.rows().stream().map(Row::id).toList());
        return there;
    }

    @Override
    public Optional<RowId> mark(String lane) throws StoreProblem {
        answer();
        return Optional.ofNullable(marks.get(lane));
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
        // nothing is open
    }
}
