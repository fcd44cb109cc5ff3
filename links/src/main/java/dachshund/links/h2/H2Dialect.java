package dachshund.links.h2;

import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.SqlType.Family;
import dachshund.core.sql.ReservedWords;
import dachshund.core.sql.StandardDialect;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;

/** H2 2, by its own documentation (Data Types, Keywords); checked against the real library. JSON is kept as a long text. */
final class H2Dialect extends StandardDialect {

    private static final ReservedWords WORDS = new ReservedWords(
            """
            ALL AND ANY ARRAY AS ASYMMETRIC AUTHORIZATION BETWEEN BOTH CASE CAST CHECK CONSTRAINT CROSS CURRENT_CATALOG
            CURRENT_DATE CURRENT_PATH CURRENT_ROLE CURRENT_SCHEMA CURRENT_TIME CURRENT_TIMESTAMP CURRENT_USER DAY DEFAULT DISTINCT
            ELSE END EXCEPT EXISTS FALSE FETCH FOR FOREIGN FROM FULL GROUP GROUPS HAVING HOUR IF ILIKE IN INNER INTERSECT INTERVAL
            IS JOIN KEY LEADING LEFT LIKE LIMIT LOCALTIME LOCALTIMESTAMP MINUS MINUTE MONTH NATURAL NOT NULL OFFSET ON OR ORDER OVER
            PARTITION PRIMARY QUALIFY RANGE REGEXP RIGHT ROW ROWNUM ROWS SECOND SELECT SESSION_USER SET SOME SYMMETRIC
            SYSTEM_USER TABLE TO TOP TRAILING TRUE UESCAPE UNION UNIQUE UNKNOWN USER USING VALUE VALUES WHEN WHERE WINDOW WITH YEAR
            _ROWID_
            """);

    @Override
    public String engine() {
        return "H2";
    }

    @Override
    public Optional<String> identifierProblem(String identifier) {
        return length(identifier, 256);
    }

    @Override
    public Optional<String> databaseProblem(String database) {
        return database.strip().matches("[\\p{L}\\p{N}][\\p{L}\\p{N} ._-]{0,99}")
                ? Optional.empty()
                : Optional.of("A file name has up to 100 letters, digits, spaces and . _ -; folders cannot be given.");
    }

    @Override
    protected ReservedWords reserved() {
        return WORDS;
    }

    @Override
    protected String plainName() {
        return "[A-Z_][A-Z0-9_]*";
    }

    @Override
    protected String rowIdType() {
        return "CHARACTER(40)";
    }

    @Override
    protected String autoNumber() {
        return "BIGINT GENERATED ALWAYS AS IDENTITY";
    }

    @Override
    public String typeName(SqlType type) {
        return switch (type.family()) {
            case BOOLEAN -> "BOOLEAN";
            case SMALLINT -> "SMALLINT";
            case INTEGER -> "INTEGER";
            case BIGINT -> "BIGINT";
            case DECIMAL -> "DECIMAL(" + type.size() + "," + type.scale() + ")";
            case DOUBLE -> "DOUBLE PRECISION";
            case TEXT -> "CHARACTER VARYING(" + type.size() + ")";
            case DATE -> "DATE";
            case TIME -> "TIME(" + type.size() + ")";
            case TIMESTAMP -> "TIMESTAMP(" + type.size() + ")";
            case JSON -> "CHARACTER LARGE OBJECT";
            case UUID -> "UUID";
        };
    }

    @Override
    public Optional<SqlType> readType(String typeName) {
        return parts(typeName).flatMap(parts -> switch (parts.name()) {
            case "boolean" -> plain(Family.BOOLEAN);
            case "tinyint", "smallint" -> plain(Family.SMALLINT);
            case "integer" -> plain(Family.INTEGER);
            case "bigint" -> plain(Family.BIGINT);
            case "numeric", "decimal" -> type(Family.DECIMAL, parts.first(), Math.max(0, parts.second()));
            case "double precision", "real", "float" -> plain(Family.DOUBLE);
            case "character varying", "character" -> text(parts.first());
            case "character large object" -> plain(Family.JSON);
            case "date" -> plain(Family.DATE);
            case "time" -> fraction(Family.TIME, parts.first(), 0);
            case "timestamp" -> fraction(Family.TIMESTAMP, parts.first(), 6);
            case "uuid" -> plain(Family.UUID);
            default -> Optional.empty();
        });
    }

    @Override
    public String insertOrUpdate(String table, Layout layout) {
        return "MERGE INTO " + quote(table) + " ("
                + layout.written().stream().map(column -> quote(column.name())).collect(Collectors.joining(", "))
                + ") KEY (" + names(layout.key()) + ") VALUES ("
                + marks(layout.written().size()) + ")";
    }

    @Override
    public String call(String procedure, List<String> arguments) {
        throw new UnsupportedOperationException("Procedures of H2 are Java classes of its own.");
    }

    @Override
    public String createDatabase(String name) {
        throw new UnsupportedOperationException("An H2 database is a file, made when it is first opened.");
    }
}
