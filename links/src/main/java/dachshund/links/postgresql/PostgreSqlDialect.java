package dachshund.links.postgresql;

import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.SqlType.Family;
import dachshund.core.sql.ReservedWords;
import dachshund.core.sql.StandardDialect;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;

/**
 * PostgreSQL 15. Identifiers have up to 63 bytes; longer ones would be cut silently, so they are refused (PostgreSQL
 * documentation, 4.1.1). Checked against a real server in links.
 */
public final class PostgreSqlDialect extends StandardDialect {

    /** Reserved, or reserved but for functions and types (PostgreSQL 15 documentation, appendix C). A test in links asks the server. */
    private static final ReservedWords WORDS = new ReservedWords(
            """
            ALL ANALYSE ANALYZE AND ANY ARRAY AS ASC ASYMMETRIC AUTHORIZATION BINARY BOTH CASE CAST CHECK COLLATE COLLATION
            COLUMN CONCURRENTLY CONSTRAINT CREATE CROSS CURRENT_CATALOG CURRENT_DATE CURRENT_ROLE CURRENT_SCHEMA
            CURRENT_TIME CURRENT_TIMESTAMP CURRENT_USER DEFAULT DEFERRABLE DESC DISTINCT DO ELSE END EXCEPT FALSE FETCH FOR
            FOREIGN FREEZE FROM FULL GRANT GROUP HAVING ILIKE IN INITIALLY INNER INTERSECT INTO IS ISNULL JOIN LATERAL
            LEADING LEFT LIKE LIMIT LOCALTIME LOCALTIMESTAMP NATURAL NOT NOTNULL NULL OFFSET ON ONLY OR ORDER OUTER OVERLAPS
            PLACING PRIMARY REFERENCES RETURNING RIGHT SELECT SESSION_USER SIMILAR SOME SYMMETRIC TABLE TABLESAMPLE THEN TO
            TRAILING TRUE UNION UNIQUE USER USING VARIADIC VERBOSE WHEN WHERE WINDOW WITH
            """);

    @Override
    public String engine() {
        return "PostgreSQL";
    }

    @Override
    public Optional<String> identifierProblem(String identifier) {
        int bytes = identifier.getBytes(StandardCharsets.UTF_8).length;
        if (bytes > 63) {
            return Optional.of(
                    "PostgreSQL takes names of up to 63 bytes; this one has " + bytes + " and would be cut silently.");
        }
        return identifier.indexOf(0) >= 0
                ? Optional.of("PostgreSQL takes no name with the character U+0000.")
                : length(identifier, 63);
    }

    @Override
    protected ReservedWords reserved() {
        return WORDS;
    }

    /** An unquoted name is folded to lower case, so capitals have to be quoted. */
    @Override
    protected String plainName() {
        return "[a-z_][a-z0-9_$]*";
    }

    @Override
    protected String quoted() {
        return "spaces, special characters or capitals";
    }

    @Override
    protected String rowIdType() {
        return "CHAR(40) COLLATE \"C\"";
    }

    /**
     * One insert, or insert-or-update, of any number of rows: a parameter per written column, an array of that column's
     * cells (PostgreSQL 15 documentation, 9.19, "unnest").
     */
    public String insertArrays(String table, Layout layout, boolean orUpdate) {
        String rows = "SELECT * FROM unnest(" + marks(layout.written().size()) + ")";
        return insertRows(table, layout, rows) + (orUpdate ? orUpdate(layout) : "");
    }

    @Override
    public String asTime(String text) {
        return "CAST(" + text + " AS TIMESTAMPTZ)";
    }

    @Override
    public String asTime(String text, String typeName) {
        return clock(typeName) ? "CAST(" + text + " AS TIMESTAMP)" : asTime(text);
    }

    @Override
    public boolean clock(String typeName) {
        return !typeName.equals("timestamptz") && !typeName.contains("with time zone");
    }

    @Override
    public String typeName(SqlType type) {
        return switch (type.family()) {
            case DECIMAL -> "NUMERIC(" + type.size() + "," + type.scale() + ")";
            case JSON -> "JSONB";
            default -> super.typeName(type);
        };
    }

    @Override
    public Optional<SqlType> readType(String typeName) {
        return typeName.equalsIgnoreCase("jsonb") ? plain(Family.JSON) : super.readType(typeName);
    }

    @Override
    public String call(String procedure, List<String> arguments) {
        return arguments.isEmpty()
                ? "CALL " + quote(procedure) + "(?::json)"
                : "CALL " + quote(procedure) + "("
                        + arguments.stream().map(name -> quote(name) + " => ?").collect(Collectors.joining(", ")) + ")";
    }
}
