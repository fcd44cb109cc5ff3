package dachshund.links.jdbc;

import dachshund.core.layout.SqlType;
import java.math.BigDecimal;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Types;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneOffset;

/** Cells to JDBC parameters and back, as most drivers want them. */
public final class Bind {

    private Bind() {}

    /** Instants travel as UTC wall clock. */
    public static void standard(PreparedStatement statement, int at, Object cell, SqlType type) throws SQLException {
        if (cell == null) {
            statement.setNull(at, nullType(type));
        } else if (cell instanceof Double number) {
            statement.setDouble(at, number);
        } else if (cell instanceof Long whole) {
            statement.setLong(at, whole);
        } else if (cell instanceof String text) {
            statement.setString(at, text);
        } else if (cell instanceof Instant time) {
            statement.setObject(at, utc(time));
        } else if (cell instanceof BigDecimal exact) {
            statement.setBigDecimal(at, exact);
        } else if (cell instanceof Boolean yes) {
            statement.setBoolean(at, yes);
        } else if (cell instanceof LocalDate || cell instanceof LocalTime) {
            statement.setObject(at, cell);
        } else {
            statement.setString(at, cell.toString());
        }
    }

    /** The wall clock of UTC. Much used, and asking the rules of a fixed offset is not cheap. */
    public static LocalDateTime utc(Instant time) {
        return LocalDateTime.ofEpochSecond(time.getEpochSecond(), time.getNano(), ZoneOffset.UTC);
    }

    /** A bulk statement wants one type per parameter over all rows, so NULL carries the type of its column. */
    public static int nullType(SqlType type) {
        return switch (type.family()) {
            case BOOLEAN -> Types.BOOLEAN;
            case SMALLINT, INTEGER, BIGINT -> Types.BIGINT;
            case DECIMAL -> Types.DECIMAL;
            case DOUBLE -> Types.DOUBLE;
            case TEXT, JSON, UUID -> Types.VARCHAR;
            case DATE -> Types.DATE;
            case TIME -> Types.TIME;
            case TIMESTAMP -> Types.TIMESTAMP;
        };
    }

    /** As the column's own type says. */
    public static Object read(ResultSet rows, int at) throws SQLException {
        Object cell =
                switch (rows.getMetaData().getColumnType(at)) {
                    case Types.TIMESTAMP -> rows.getObject(at, LocalDateTime.class);
                    case Types.DATE -> rows.getObject(at, LocalDate.class);
                    case Types.TIME -> rows.getObject(at, LocalTime.class);
                    default -> rows.getObject(at);
                };
        if (cell instanceof LocalDateTime time) {
            return time.toInstant(ZoneOffset.UTC);
        }
        boolean asItIs = cell == null
                || cell instanceof Number
                || cell instanceof Boolean
                || cell instanceof LocalDate
                || cell instanceof LocalTime;
        return asItIs ? cell : rows.getString(at);
    }
}
