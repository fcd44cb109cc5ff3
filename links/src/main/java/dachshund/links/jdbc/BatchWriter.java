package dachshund.links.jdbc;

import dachshund.core.destination.RowBatch;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.TableKeeping.Procedure;
import dachshund.core.destination.WriteMode;
import dachshund.core.layout.Column;
import dachshund.core.layout.SqlType;
import dachshund.core.row.Row;
import dachshund.core.row.RowJson;
import dachshund.core.sql.Dialect;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/** Writes the rows of a batch by its mode, inside a transaction that somebody else ends. */
final class BatchWriter {

    private final JdbcEngine engine;
    /** Argument names of procedures that have to be called in their own order. */
    private final Map<String, List<String>> arguments = new ConcurrentHashMap<>();

    BatchWriter(JdbcEngine engine) {
        this.engine = engine;
    }

    /** @return how many rows were written, as far as the driver says */
    int write(Connection connection, RowBatch batch) throws SQLException, StoreProblem {
        Dialect dialect = engine.dialect();
        int[] inOrder = IntStream.range(0, batch.layout().written().size()).toArray();
        if (batch.mode() instanceof WriteMode.Update) {
            return update(connection, batch);
        }
        if (batch.mode() instanceof WriteMode.Call call) {
            return call(connection, batch, call);
        }
        List<Row> rows = batch.mode() instanceof WriteMode.InsertOrUpdate ? lastOfEachKey(batch) : batch.rows();
        if (rows.size() > 1 && engine.writeAll(connection, batch, rows)) {
            return batch.rows().size();
        }
        String sql = batch.mode() instanceof WriteMode.Insert
                ? dialect.insert(batch.table(), batch.layout())
                : dialect.insertOrUpdate(batch.table(), batch.layout());
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            SqlType[] types = types(batch);
            if (rows.size() == 1) {
                bind(statement, types, inOrder, rows.get(0));
                statement.executeUpdate();
            } else {
                for (Row row : rows) {
                    bind(statement, types, inOrder, row);
                    statement.addBatch();
                }
                statement.executeBatch();
            }
        }
        return batch.rows().size();
    }

    /**
     * Rows of one key change the same row of the table one after the other: what the last one says is what stands there.
     * Engines refuse, or do in any order, two of them in one statement. A key with nothing in it is like no other.
     */
    private static List<Row> lastOfEachKey(RowBatch batch) {
        List<Column> written = batch.layout().written();
        int[] key = IntStream.range(0, written.size())
                .filter(i -> batch.layout().isKey(written.get(i).name()))
                .toArray();
        Map<Object, Row> last = new LinkedHashMap<>();
        for (Row row : batch.rows()) {
            List<Object> values = new ArrayList<>();
            for (int i : key) {
                values.add(row.cells()[i]);
            }
            Object its = key.length == 0 || values.contains(null) ? row.id() : values;
            last.remove(its);
            last.put(its, row);
        }
        return List.copyOf(last.values());
    }

    private static SqlType[] types(RowBatch batch) {
        return batch.layout().written().stream().map(Column::type).toArray(SqlType[]::new);
    }

    void bind(PreparedStatement statement, SqlType[] types, int[] order, Row row) throws SQLException {
        for (int i = 0; i < order.length; i++) {
            engine.bind(statement, i + 1, row.cells()[order[i]], types[order[i]]);
        }
    }

    /** One row after the other, because only so every engine says whether a row was there. */
    private int update(Connection connection, RowBatch batch) throws SQLException, StoreProblem {
        int[] order = Dialect.updateOrder(batch.layout());
        SqlType[] types = types(batch);
        try (PreparedStatement statement =
                connection.prepareStatement(engine.dialect().update(batch.table(), batch.layout()))) {
            for (Row row : batch.rows()) {
                bind(statement, types, order, row);
                if (statement.executeUpdate() == 0) {
                    throw new StoreProblem(
                            StoreProblem.Kind.CONTENT,
                            -1,
                            "There is no row to update in " + batch.table() + " with " + key(batch, row) + ".",
                            null);
                }
            }
        }
        return batch.rows().size();
    }

    private static String key(RowBatch batch, Row row) {
        List<Column> written = batch.layout().written();
        return IntStream.range(0, written.size())
                .filter(i -> batch.layout().isKey(written.get(i).name()))
                .mapToObj(i -> written.get(i).name() + " = " + row.cells()[i])
                .collect(Collectors.joining(" and "));
    }

    private int call(Connection connection, RowBatch batch, WriteMode.Call call) throws SQLException, StoreProblem {
        List<Column> written = batch.layout().written();
        SqlType[] types = types(batch);
        List<String> given = List.of();
        int[] order = {};
        if (!call.oneJson()) {
            WriteMode.Call.Binding binding =
                    call.bind(written.stream().map(Column::name).toList());
            if (!binding.problem().isEmpty()) {
                throw new StoreProblem(StoreProblem.Kind.TABLE, -1, binding.problem(), null);
            }
            int[] inTurn = engine.namedArguments()
                    ? IntStream.range(0, call.arguments().size()).toArray()
                    : ownOrder(connection, call);
            given = IntStream.of(inTurn).mapToObj(i -> call.arguments().get(i)).toList();
            order = IntStream.of(inTurn).map(i -> binding.places()[i]).toArray();
        }
        try (PreparedStatement statement =
                connection.prepareStatement(engine.dialect().call(call.procedure(), given))) {
            for (Row row : batch.rows()) {
                if (call.oneJson()) {
                    statement.setString(1, RowJson.write(written, row.cells()));
                } else {
                    bind(statement, types, order, row);
                }
                statement.execute();
            }
        }
        return batch.rows().size();
    }

    private int[] ownOrder(Connection connection, WriteMode.Call call) throws SQLException, StoreProblem {
        List<String> own = arguments.get(call.procedure());
        if (own == null) {
            Optional<Procedure> found = engine.procedures(connection).stream()
                    .filter(each -> each.name().equalsIgnoreCase(call.procedure()))
                    .findFirst();
            if (found.isEmpty()) {
                throw new StoreProblem(
                        StoreProblem.Kind.TABLE, -1, "There is no procedure named " + call.procedure() + ".", null);
            }
            own = found.get().arguments();
            arguments.put(call.procedure(), own);
        }
        List<Integer> order = new ArrayList<>();
        for (String argument : own) {
            int at = IntStream.range(0, call.arguments().size())
                    .filter(i -> call.arguments().get(i).equalsIgnoreCase(argument))
                    .findFirst()
                    .orElse(-1);
            if (at < 0) {
                throw new StoreProblem(
                        StoreProblem.Kind.TABLE,
                        -1,
                        "The procedure " + call.procedure() + " takes an argument " + argument
                                + ", which no column gives.",
                        null);
            }
            order.add(at);
        }
        return order.stream().mapToInt(Integer::intValue).toArray();
    }
}
