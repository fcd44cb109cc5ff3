package dachshund.links.mariadb;

import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.SqlType.Family;
import dachshund.core.sql.ReservedWords;
import dachshund.core.sql.StandardDialect;
import java.util.Optional;
import java.util.stream.Collectors;

/**
 * MariaDB 10.11. Identifiers have up to 64 characters, do not end with a space, and may hold anything of the Basic
 * Multilingual Plane but U+0000 (MariaDB documentation, "Identifier Names"). Checked against a real server in links.
 */
public class MariaDbDialect extends StandardDialect {

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
        Optional<String> length = length(identifier, 64);
        if (length.isPresent()) {
            return length;
        }
        if (identifier.endsWith(" ")) {
            return Optional.of(engine() + " takes no name that ends with a space.");
        }
        if (identifier.chars().anyMatch(c -> c == 0 || Character.isSurrogate((char) c))) {
            return Optional.of(engine() + " takes no emoji and no other characters beyond the basic plane in a name.");
        }
        return Optional.empty();
    }

    @Override
    protected ReservedWords reserved() {
        return MariaDbReservedWords.WORDS;
    }

    @Override
    protected String plainName() {
        return "[A-Za-z0-9_$]*";
    }

    @Override
    protected String rowIdType() {
        return "CHAR(40) CHARACTER SET ascii COLLATE ascii_bin";
    }

    @Override
    protected String autoNumber() {
        return "BIGINT NOT NULL AUTO_INCREMENT";
    }

    @Override
    public String asTime(String text) {
        return "CAST(" + text + " AS DATETIME(6))";
    }

    @Override
    public String typeName(SqlType type) {
        return switch (type.family()) {
            case INTEGER -> "INT";
            case DOUBLE -> "DOUBLE";
            case TIMESTAMP -> "DATETIME(" + type.size() + ")";
            default -> super.typeName(type);
        };
    }

    @Override
    public Optional<SqlType> readType(String typeName) {
        return parts(typeName).flatMap(parts -> switch (parts.name()) {
            case "boolean", "bool" -> plain(Family.BOOLEAN);
            case "tinyint" -> parts.first() == 1 ? plain(Family.BOOLEAN) : plain(Family.SMALLINT);
            case "smallint" -> parts.rest().contains("unsigned") ? plain(Family.INTEGER) : plain(Family.SMALLINT);
            case "mediumint", "int", "integer" ->
                parts.rest().contains("unsigned") ? plain(Family.BIGINT) : plain(Family.INTEGER);
            case "bigint" -> plain(Family.BIGINT);
            case "decimal", "numeric" ->
                type(Family.DECIMAL, parts.first() < 0 ? 10 : parts.first(), Math.max(0, parts.second()));
            case "float", "double" -> plain(Family.DOUBLE);
            case "varchar", "char" -> text(parts.first());
            case "tinytext" -> text(255);
            case "text", "mediumtext" -> text(10_000);
            // JSON is an alias of LONGTEXT, and that is what the server calls it afterwards.
            case "json", "longtext" -> plain(Family.JSON);
            case "date" -> plain(Family.DATE);
            case "time" -> fraction(Family.TIME, parts.first(), 0);
            case "datetime", "timestamp" -> fraction(Family.TIMESTAMP, parts.first(), 0);
            case "uuid" -> plain(Family.UUID);
            default -> Optional.empty();
        });
    }

    @Override
    public boolean singlePrecision(String typeName) {
        return typeName.toLowerCase(java.util.Locale.ROOT).startsWith("float");
    }

    @Override
    protected String createTail() {
        return " ENGINE=InnoDB DEFAULT CHARSET=utf8mb4";
    }

    @Override
    public String insertOrUpdate(String table, Layout layout) {
        return insert(table, layout) + " ON DUPLICATE KEY UPDATE "
                + others(layout).stream()
                        .map(name -> quote(name) + " = VALUES(" + quote(name) + ")")
                        .collect(Collectors.joining(", "));
    }

    @Override
    public String createDatabase(String name) {
        return super.createDatabase(name) + " CHARACTER SET utf8mb4";
    }
}
