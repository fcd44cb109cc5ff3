package dachshund.core.sql;

import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;

/**
 * MariaDB 10.11. Identifiers have up to 64 characters, do not end with a space, and may hold anything of the Basic
 * Multilingual Plane but U+0000 (MariaDB documentation, "Identifier Names"). Checked against a real server in links.
 */
public final class MariaDbDialect implements Dialect {

    @Override
    public String engine() {
        return "MariaDB";
    }

    @Override
    public String quote(String identifier) {
        return "`" + identifier.replace("`", "``") + "`";
    }

    @Override
    public Optional<String> identifierProblem(String identifier) {
        if (identifier.isBlank()) {
            return Optional.of("A name is needed.");
        }
        if (identifier.codePointCount(0, identifier.length()) > 64) {
            return Optional.of("MariaDB takes names of up to 64 characters; this one has "
                    + identifier.codePointCount(0, identifier.length()) + ".");
        }
        if (identifier.endsWith(" ")) {
            return Optional.of("MariaDB takes no name that ends with a space.");
        }
        if (identifier.chars().anyMatch(c -> c == 0 || Character.isSurrogate((char) c))) {
            return Optional.of("MariaDB takes no emoji and no other characters beyond the basic plane in a name.");
        }
        return Optional.empty();
    }

    @Override
    public Optional<String> identifierHint(String identifier) {
        if (MariaDbReservedWords.contains(identifier)) {
            return Optional.of("\"" + identifier + "\" is a reserved word: it works here, but everyone who queries the table must quote it.");
        }
        if (identifier.matches("\\d+")) {
            return Optional.of("A name of digits alone must be quoted by everyone who queries the table.");
        }
        if (!identifier.matches("[A-Za-z0-9_$]*")) {
            return Optional.of("It works, but everyone who queries the table must quote a name with spaces or special characters.");
        }
        return Optional.empty();
    }

    @Override
    public String typeName(SqlType type) {
        return switch (type.family()) {
            case BOOLEAN -> "BOOLEAN";
            case SMALLINT -> "SMALLINT";
            case INTEGER -> "INT";
            case BIGINT -> "BIGINT";
            case DECIMAL -> "DECIMAL(" + type.size() + "," + type.scale() + ")";
            case DOUBLE -> "DOUBLE";
            case TEXT -> "VARCHAR(" + type.size() + ")";
            case TIMESTAMP -> "DATETIME(" + type.size() + ")";
        };
    }

    @Override
    public List<String> createTable(String table, Layout layout, boolean temporary) {
        List<String> lines = new ArrayList<>();
        for (Column column : layout.columns()) {
            lines.add("  " + quote(column.name()) + " " + definition(column));
        }
        Optional<Column> auto = layout.columns().stream().filter(Column::isAutoNumber).findFirst();
        Optional<Column> rowId = layout.rowIdColumn();
        auto.ifPresent(column -> lines.add("  PRIMARY KEY (" + quote(column.name()) + ")"));
        rowId.ifPresent(column -> lines.add((auto.isPresent() ? "  UNIQUE KEY " : "  PRIMARY KEY ") + "(" + quote(column.name()) + ")"));
        String head = "CREATE " + (temporary ? "TEMPORARY TABLE " : "TABLE ") + quote(table) + " (\n";
        return List.of(head + String.join(",\n", lines) + "\n) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4");
    }

    @Override
    public String addColumn(String table, Column column) {
        // Rows that are there have no value for it: so it is nullable, the row id unique among those that have one.
        String type = column.isRowId() ? "CHAR(40) CHARACTER SET ascii COLLATE ascii_bin" : typeName(column.type());
        return "ALTER TABLE " + quote(table) + " ADD COLUMN " + quote(column.name()) + " " + type + " NULL"
                + (column.isRowId() ? ", ADD UNIQUE KEY (" + quote(column.name()) + ")" : "");
    }

    private String definition(Column column) {
        if (column.isAutoNumber()) {
            return "BIGINT NOT NULL AUTO_INCREMENT";
        }
        if (column.isRowId()) {
            return "CHAR(40) CHARACTER SET ascii COLLATE ascii_bin NOT NULL";
        }
        return typeName(column.type()) + (column.required() ? " NOT NULL" : " NULL");
    }

    @Override
    public String insert(String table, Layout layout) {
        List<Column> written = layout.written();
        return "INSERT INTO " + quote(table) + " ("
                + written.stream().map(column -> quote(column.name())).collect(Collectors.joining(", "))
                + ") VALUES (" + written.stream().map(column -> "?").collect(Collectors.joining(", ")) + ")";
    }
}
