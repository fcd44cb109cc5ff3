package dachshund.links.sqlite;

import dachshund.core.layout.SqlType;
import dachshund.core.layout.SqlType.Family;
import dachshund.core.sql.ReservedWords;
import dachshund.core.sql.StandardDialect;
import java.util.List;
import java.util.Optional;

/**
 * SQLite 3. It has five storage classes; a declared type decides by the words in it how a value is kept ("Datatypes In
 * SQLite", 3.1). So decimals that a double would not hold exactly, and JSON, are declared as texts. Times are kept as text in
 * UTC, as its date functions read them. Checked against the real library in links.
 */
public final class SqliteDialect extends StandardDialect {

    /** Digits that a double always holds. */
    private static final int EXACT_DIGITS = 15;

    /** From "SQLite Keywords", those that a column's name cannot be unquoted. A test in links asks the library. */
    private static final ReservedWords WORDS = new ReservedWords(
            """
            ADD ALL ALTER AND AS AUTOINCREMENT BETWEEN CASE CHECK COLLATE COMMIT CONSTRAINT CREATE DEFAULT DEFERRABLE DELETE
            DISTINCT DROP ELSE ESCAPE EXCEPT EXISTS FOREIGN FROM GROUP HAVING IN INDEX INSERT INTERSECT INTO IS ISNULL JOIN LIMIT NOT
            NOTHING NOTNULL NULL ON OR ORDER PRIMARY REFERENCES RETURNING SELECT SET TABLE THEN TO TRANSACTION UNION UNIQUE
            UPDATE USING VALUES WHEN WHERE
            """);

    @Override
    public String engine() {
        return "SQLite";
    }

    @Override
    public Optional<String> identifierProblem(String identifier) {
        if (identifier.toLowerCase(java.util.Locale.ROOT).startsWith("sqlite_")) {
            return Optional.of("SQLite keeps names that begin with sqlite_ for itself.");
        }
        return identifier.indexOf(0) >= 0
                ? Optional.of("SQLite takes no name with the character U+0000.")
                : length(identifier, 128);
    }

    /** A database is a file, which never leaves its folder. */
    @Override
    public Optional<String> databaseProblem(String database) {
        return database.strip().matches("[\\p{L}\\p{N}][\\p{L}\\p{N} ._-]{0,99}")
                ? Optional.empty()
                : Optional.of(
                        "A file name has up to 100 letters, digits, spaces and . _ - and begins with a letter or digit; folders cannot be given.");
    }

    @Override
    protected ReservedWords reserved() {
        return WORDS;
    }

    @Override
    protected String plainName() {
        return "[A-Za-z_][A-Za-z0-9_]*";
    }

    @Override
    protected String rowIdType() {
        return "CHAR(40)";
    }

    @Override
    protected String autoNumber() {
        return "INTEGER PRIMARY KEY AUTOINCREMENT";
    }

    /** It has no times, only texts. */
    @Override
    public String asTime(String text) {
        return text;
    }

    @Override
    public String position(String of, String in) {
        return "INSTR(" + in + ", " + of + ")";
    }

    @Override
    public String typeName(SqlType type) {
        return switch (type.family()) {
            case DECIMAL ->
                type.size() <= EXACT_DIGITS
                        ? super.typeName(type)
                        : "DECIMAL_TEXT(" + type.size() + "," + type.scale() + ")";
            case DOUBLE -> "DOUBLE";
            case TIMESTAMP -> "TIMESTAMP(" + type.size() + ")";
            case JSON -> "JSON_TEXT";
            default -> super.typeName(type);
        };
    }

    @Override
    public Optional<SqlType> readType(String typeName) {
        return parts(typeName).flatMap(parts -> switch (parts.name()) {
            case "boolean" -> plain(Family.BOOLEAN);
            case "smallint", "tinyint" -> plain(Family.SMALLINT);
            case "int", "integer", "bigint" -> plain(Family.BIGINT);
            case "decimal", "numeric", "decimal_text" ->
                type(Family.DECIMAL, parts.first() < 0 ? EXACT_DIGITS : parts.first(), Math.max(0, parts.second()));
            case "real", "float", "double", "double precision" -> plain(Family.DOUBLE);
            case "text", "varchar", "char", "clob" -> text(parts.first());
            case "date" -> plain(Family.DATE);
            case "time" -> fraction(Family.TIME, parts.first(), 0);
            case "timestamp", "datetime" -> fraction(Family.TIMESTAMP, parts.first(), 3);
            case "json", "json_text" -> plain(Family.JSON);
            case "uuid" -> plain(Family.UUID);
            default -> Optional.empty();
        });
    }

    @Override
    public String call(String procedure, List<String> arguments) {
        throw new UnsupportedOperationException("SQLite has no stored procedures.");
    }

    @Override
    public String createDatabase(String name) {
        throw new UnsupportedOperationException("A SQLite database is a file, made when it is first opened.");
    }
}
