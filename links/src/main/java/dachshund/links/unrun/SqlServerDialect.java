package dachshund.links.unrun;

import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.SqlType.Family;
import dachshund.core.sql.ReservedWords;
import dachshund.core.sql.StandardDialect;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;

/** SQL Server 2016 and newer, by its documentation (Transact-SQL reference). Never executed here. */
public final class SqlServerDialect extends StandardDialect {

    /** From "Reserved Keywords (Transact-SQL)", those most likely as a name; from memory. */
    private static final ReservedWords WORDS = new ReservedWords(
            """
            ADD ALL ALTER AND ANY AS ASC BACKUP BEGIN BETWEEN BREAK BROWSE BULK BY CASCADE CASE CHECK CLOSE COALESCE COLUMN COMMIT
            CONSTRAINT CREATE CROSS CURRENT CURRENT_DATE CURRENT_TIME CURRENT_TIMESTAMP CURRENT_USER CURSOR DATABASE DECLARE DEFAULT
            DELETE DENY DESC DISTINCT DOUBLE DROP ELSE END EXEC EXECUTE EXISTS EXIT FETCH FILE FOR FOREIGN FROM FULL FUNCTION GRANT
            GROUP HAVING IDENTITY IF IN INDEX INNER INSERT INTERSECT INTO IS JOIN KEY KILL LEFT LIKE LINENO MERGE NOT NULL OF OFF ON
            OPEN OPTION OR ORDER OUTER OVER PERCENT PLAN PRIMARY PRINT PROC PROCEDURE PUBLIC READ REFERENCES RETURN RIGHT ROLLBACK
            RULE SAVE SCHEMA SELECT SET SOME TABLE THEN TO TOP TRANSACTION TRIGGER UNION UNIQUE UPDATE USE USER VALUES VIEW WHEN
            WHERE WHILE WITH
            """);

    @Override
    public String engine() {
        return "SQL Server";
    }

    @Override
    public boolean executed() {
        return false;
    }

    @Override
    public String quote(String identifier) {
        return "[" + identifier.replace("]", "]]") + "]";
    }

    @Override
    public Optional<String> identifierProblem(String identifier) {
        return length(identifier, 128);
    }

    @Override
    protected ReservedWords reserved() {
        return WORDS;
    }

    @Override
    protected String plainName() {
        return "[A-Za-z_@#][A-Za-z0-9_@#$]*";
    }

    @Override
    protected String rowIdType() {
        return "CHAR(40) COLLATE Latin1_General_BIN2";
    }

    @Override
    protected String autoNumber() {
        return "BIGINT IDENTITY(1,1) NOT NULL";
    }

    @Override
    public String typeName(SqlType type) {
        return switch (type.family()) {
            case BOOLEAN -> "BIT";
            case SMALLINT -> "SMALLINT";
            case INTEGER -> "INT";
            case BIGINT -> "BIGINT";
            case DECIMAL -> "DECIMAL(" + type.size() + "," + type.scale() + ")";
            case DOUBLE -> "FLOAT(53)";
            case TEXT -> type.size() <= 4000 ? "NVARCHAR(" + type.size() + ")" : "NVARCHAR(MAX)";
            case DATE -> "DATE";
            case TIME -> "TIME(" + type.size() + ")";
            case TIMESTAMP -> "DATETIME2(" + type.size() + ")";
            case JSON -> "NVARCHAR(MAX)";
            case UUID -> "UNIQUEIDENTIFIER";
        };
    }

    @Override
    public Optional<SqlType> readType(String typeName) {
        return parts(typeName).flatMap(parts -> switch (parts.name()) {
            case "bit" -> plain(Family.BOOLEAN);
            case "tinyint", "smallint" -> plain(Family.SMALLINT);
            case "int" -> plain(Family.INTEGER);
            case "bigint" -> plain(Family.BIGINT);
            case "decimal", "numeric" ->
                type(Family.DECIMAL, parts.first() < 0 ? 18 : parts.first(), Math.max(0, parts.second()));
            case "float", "real" -> plain(Family.DOUBLE);
            case "nvarchar", "varchar", "nchar", "char" -> text(parts.first());
            case "date" -> plain(Family.DATE);
            case "time" -> fraction(Family.TIME, parts.first(), 6);
            case "datetime2" -> fraction(Family.TIMESTAMP, parts.first(), 6);
            case "datetime" -> fraction(Family.TIMESTAMP, 3, 3);
            case "uniqueidentifier" -> plain(Family.UUID);
            default -> Optional.empty();
        });
    }

    /** A temporary table is one whose name begins with #. */
    @Override
    protected String createHead(String table, boolean temporary) {
        return "CREATE TABLE " + quote(temporary ? "#" + table : table);
    }

    @Override
    protected String addWord() {
        return "ADD";
    }

    @Override
    public List<String> addColumn(String table, dachshund.core.layout.Column column) {
        // Here NULL counts as a value of a unique index, so rows without a row id are left out of it.
        return super.addColumn(table, column).stream()
                .map(sql ->
                        sql.startsWith("CREATE UNIQUE") ? sql + " WHERE " + quote(column.name()) + " IS NOT NULL" : sql)
                .toList();
    }

    @Override
    public String insertOrUpdate(String table, Layout layout) {
        String source = "(VALUES (" + marks(layout.written().size()) + ")) AS s ("
                + names(layout.written().stream()
                        .map(dachshund.core.layout.Column::name)
                        .toList()) + ")";
        return merge(table, layout, source).replaceFirst(" t USING", " WITH (HOLDLOCK) AS t USING") + ";";
    }

    @Override
    public String call(String procedure, List<String> arguments) {
        return "EXEC " + quote(procedure) + " "
                + (arguments.isEmpty()
                        ? "?"
                        : arguments.stream()
                                .map(name -> "@" + name.replaceFirst("^@", "") + " = ?")
                                .collect(Collectors.joining(", ")));
    }
    /** SQL:2008, F865 and F867; from memory. */
    @Override
    public String first(String select, int rows) {
        return select + " OFFSET 0 ROWS FETCH NEXT " + rows + " ROWS ONLY";
    }
}
