package dachshund.links.postgresql;

import dachshund.core.destination.RowBatch;
import dachshund.core.destination.WriteMode;
import dachshund.core.layout.Column;
import dachshund.core.layout.SqlType.Family;
import dachshund.core.row.Row;
import java.math.BigDecimal;
import java.sql.Array;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;

/**
 * Many rows in one statement, an array for each column: the server reads a few parameters instead of thousands, and the
 * statement is the same for any number of rows. A column's cells have the type here that they have as single parameters, so
 * that the table takes or refuses them alike.
 */
final class ArrayInsert {

    /**
     * How the cells of a column go into an array.
     *
     * @param element the server's name of the type of one
     * @param cell    the only class of cells that there may be
     */
    private record Way(
            String element, Class<?> cell, Function<Object, Object> given, Function<Integer, Object[]> room) {

        static Way asTheyAre(String element, Class<?> cell, Function<Integer, Object[]> room) {
            return new Way(element, cell, each -> each, room);
        }

        static Way asText(String element, Class<?> cell) {
            return new Way(element, cell, Object::toString, String[]::new);
        }

        /** Empty where a cell is none that goes this way. */
        Optional<Object[]> all(List<Row> rows, int at) {
            Object[] cells = room.apply(rows.size());
            for (int i = 0; i < cells.length; i++) {
                Object own = rows.get(i).cells()[at];
                if (own != null && own.getClass() != cell) {
                    return Optional.empty();
                }
                cells[i] = own == null ? null : given.apply(own);
            }
            return Optional.of(cells);
        }
    }

    private final PostgreSqlDialect dialect;

    ArrayInsert(PostgreSqlDialect dialect) {
        this.dialect = dialect;
    }

    /** Empty for types that the server has to find out by the table: their parameters have no type of their own. */
    private static Optional<Way> way(Family family) {
        return Optional.ofNullable(
                switch (family) {
                    case BOOLEAN -> Way.asTheyAre("bool", Boolean.class, Boolean[]::new);
                    case SMALLINT, INTEGER ->
                        new Way("int4", Long.class, whole -> ((Long) whole).intValue(), Integer[]::new);
                    case BIGINT -> Way.asTheyAre("int8", Long.class, Long[]::new);
                    case DECIMAL -> Way.asText("numeric", BigDecimal.class);
                    case DOUBLE -> Way.asTheyAre("float8", Double.class, Double[]::new);
                    case TEXT -> Way.asTheyAre("varchar", String.class, String[]::new);
                    case DATE -> Way.asText("date", LocalDate.class);
                    case TIME -> Way.asText("time", LocalTime.class);
                    case TIMESTAMP -> Way.asText("timestamptz", Instant.class);
                    case JSON, UUID -> null;
                });
    }

    /** @return false where the rows do not go this way, and nothing was written */
    boolean write(Connection connection, RowBatch batch, List<Row> rows) throws SQLException {
        List<Column> written = batch.layout().written();
        List<Array> arrays = new ArrayList<>(written.size());
        for (int i = 0; i < written.size(); i++) {
            Optional<Way> way = way(written.get(i).type().family());
            int at = i;
            Optional<Object[]> cells = way.flatMap(its -> its.all(rows, at));
            if (cells.isEmpty()) {
                return false;
            }
            arrays.add(connection.createArrayOf(way.get().element(), cells.get()));
        }
        boolean orUpdate = batch.mode() instanceof WriteMode.InsertOrUpdate;
        try (PreparedStatement statement =
                connection.prepareStatement(dialect.insertArrays(batch.table(), batch.layout(), orUpdate))) {
            for (int i = 0; i < arrays.size(); i++) {
                statement.setArray(i + 1, arrays.get(i));
            }
            statement.executeUpdate();
        }
        return true;
    }
}
