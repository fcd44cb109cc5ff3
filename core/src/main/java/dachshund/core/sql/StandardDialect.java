package dachshund.core.sql;

import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/** What engines have in common (ISO/IEC 9075), for each to differ from. */
public abstract class StandardDialect implements Dialect {

    private static final Pattern TYPE = Pattern.compile(
            "([a-z0-9_]+(?: [a-z0-9_]+)*)\\s*(?:\\(\\s*(\\d+)\\s*(?:,\\s*(\\d+)\\s*)?\\))?\\s*([a-z ]*)");

    /** Column type of a row id: 40 ASCII characters, compared byte by byte. */
    protected abstract String rowIdType();

    /** How a column that the database numbers is declared, its primary key included or not. */
    protected abstract String autoNumber();

    protected abstract ReservedWords reserved();

    @Override
    public String quote(String identifier) {
        return "\"" + identifier.replace("\"", "\"\"") + "\"";
    }

    protected String names(List<String> columns) {
        return columns.stream().map(this::quote).collect(Collectors.joining(", "));
    }

    private static List<String> names(Layout layout) {
        return layout.written().stream().map(Column::name).toList();
    }

    protected static String marks(int count) {
        return String.join(", ", Collections.nCopies(count, "?"));
    }

    /** A sentence where the name is blank or longer than so many characters. */
    protected Optional<String> length(String identifier, int most) {
        if (identifier.isBlank()) {
            return Optional.of("A name is needed.");
        }
        int length = identifier.codePointCount(0, identifier.length());
        return length <= most
                ? Optional.empty()
                : Optional.of(engine() + " takes names of up to " + most + " characters; this one has " + length + ".");
    }

    @Override
    public Optional<String> identifierHint(String identifier) {
        if (reserved().contains(identifier)) {
            return Optional.of("\"" + identifier
                    + "\" is a reserved word: it works here, but everyone who queries the table must quote it.");
        }
        if (identifier.matches("\\d+")) {
            return Optional.of("A name of digits alone must be quoted by everyone who queries the table.");
        }
        if (!identifier.matches(plainName())) {
            return Optional.of("It works, but everyone who queries the table must quote a name with " + quoted() + ".");
        }
        return Optional.empty();
    }

    /** Names that nobody has to quote. */
    protected String plainName() {
        return "[A-Za-z0-9_]*";
    }

    /** What in a name makes everybody quote it. */
    protected String quoted() {
        return "spaces or special characters";
    }

    /** Type name and its numbers taken apart: decimal(8,2) unsigned becomes decimal, 8, 2, unsigned. */
    protected record TypeParts(String name, int first, int second, String rest) {}

    protected static Optional<TypeParts> parts(String typeName) {
        Matcher parts = TYPE.matcher(typeName.toLowerCase(Locale.ROOT).strip());
        if (!parts.matches()) {
            return Optional.empty();
        }
        String name = parts.group(1).replaceFirst(" unsigned$", "");
        String rest = name.equals(parts.group(1)) ? parts.group(4).strip() : "unsigned";
        return Optional.of(new TypeParts(name, number(parts.group(2)), number(parts.group(3)), rest));
    }

    private static int number(String digits) {
        return digits == null ? -1 : Integer.parseInt(digits);
    }

    /** A type of these sizes, where ours go so far. */
    protected static Optional<SqlType> type(SqlType.Family family, int size, int scale) {
        try {
            return Optional.of(new SqlType(family, size, scale));
        } catch (IllegalArgumentException beyondOurs) {
            return Optional.empty();
        }
    }

    protected static Optional<SqlType> plain(SqlType.Family family) {
        return type(family, 0, 0);
    }

    /** A text of up to so many characters; unlimited ones as long as ours go. */
    protected static Optional<SqlType> text(int characters) {
        return type(SqlType.Family.TEXT, characters < 1 ? 10_000 : Math.min(characters, 10_000), 0);
    }

    protected static Optional<SqlType> fraction(SqlType.Family family, int digits, int unless) {
        return type(family, Math.min(6, digits < 0 ? unless : digits), 0);
    }

    @Override
    public List<String> createTable(String table, Layout layout, boolean temporary) {
        List<String> lines = new ArrayList<>();
        for (Column column : layout.columns()) {
            lines.add("  " + quote(column.name()) + " " + definition(column, layout));
        }
        Optional<Column> auto =
                layout.columns().stream().filter(Column::isAutoNumber).findFirst();
        boolean primaryTaken = auto.isPresent();
        auto.filter(column -> !autoNumber().contains("PRIMARY KEY"))
                .ifPresent(column -> lines.add("  PRIMARY KEY (" + quote(column.name()) + ")"));
        if (!layout.key().isEmpty()) {
            lines.add((primaryTaken ? "  UNIQUE " : "  PRIMARY KEY ") + "(" + names(layout.key()) + ")");
            primaryTaken = true;
        }
        if (layout.rowIdColumn().isPresent()
                && !layout.key().equals(List.of(layout.rowIdColumn().get().name()))) {
            lines.add((primaryTaken ? "  UNIQUE " : "  PRIMARY KEY ") + "("
                    + quote(layout.rowIdColumn().get().name()) + ")");
        }
        List<String> statements = new ArrayList<>();
        statements.add(createHead(table, temporary) + " (\n" + String.join(",\n", lines) + "\n)" + createTail());
        for (List<String> index : layout.indexes()) {
            statements.add("CREATE INDEX " + quote(indexName(table, index)) + " ON " + quote(table) + " ("
                    + names(index) + ")");
        }
        return statements;
    }

    protected String createHead(String table, boolean temporary) {
        return "CREATE " + (temporary ? "TEMPORARY TABLE " : "TABLE ") + quote(table);
    }

    protected String createTail() {
        return "";
    }

    /** Stays within every engine's limit, and tells indexes of one table apart. */
    public static String indexName(String table, List<String> columns) {
        String wish = ("ix_" + table + "_" + String.join("_", columns)).replaceAll("[^A-Za-z0-9_]", "_");
        return wish.length() <= 60 ? wish : wish.substring(0, 51) + "_" + String.format("%08x", wish.hashCode());
    }

    private String definition(Column column, Layout layout) {
        if (column.isAutoNumber()) {
            return autoNumber();
        }
        boolean given = column.required() || column.isRowId() || layout.isKey(column.name());
        return (column.isRowId() ? rowIdType() : typeName(column.type())) + (given ? " NOT NULL" : " NULL");
    }

    @Override
    public List<String> addColumn(String table, Column column) {
        // Rows that are there have no value for it: so it is nullable, the row id unique among those that have one.
        List<String> statements = new ArrayList<>(List.of("ALTER TABLE " + quote(table) + " " + addWord() + " "
                + quote(column.name()) + " " + (column.isRowId() ? rowIdType() : typeName(column.type())) + " NULL"));
        if (column.isRowId()) {
            statements.add("CREATE UNIQUE INDEX " + quote(indexName(table, List.of(column.name()))) + " ON "
                    + quote(table) + " (" + quote(column.name()) + ")");
        }
        return statements;
    }

    protected String addWord() {
        return "ADD COLUMN";
    }

    @Override
    public String insert(String table, Layout layout) {
        return insertRows(table, layout, "VALUES (" + marks(layout.written().size()) + ")");
    }

    /** @param rows what gives the written columns of the rows, in their order */
    protected String insertRows(String table, Layout layout, String rows) {
        return "INSERT INTO " + quote(table) + " (" + names(names(layout)) + ") " + rows;
    }

    @Override
    public String update(String table, Layout layout) {
        return "UPDATE " + quote(table) + " SET "
                + layout.written().stream()
                        .filter(column -> !layout.isKey(column.name()))
                        .map(column -> quote(column.name()) + " = ?")
                        .collect(Collectors.joining(", "))
                + " WHERE "
                + layout.key().stream().map(key -> quote(key) + " = ?").collect(Collectors.joining(" AND "));
    }

    /** As in PostgreSQL and SQLite. */
    @Override
    public String insertOrUpdate(String table, Layout layout) {
        return insert(table, layout) + orUpdate(layout);
    }

    protected String orUpdate(Layout layout) {
        return " ON CONFLICT (" + names(layout.key()) + ") DO UPDATE SET "
                + others(layout).stream()
                        .map(name -> quote(name) + " = excluded." + quote(name))
                        .collect(Collectors.joining(", "));
    }

    /** The written columns that are not its key; the row id among them, which tells of the row that was written there last. */
    protected static List<String> others(Layout layout) {
        return layout.written().stream()
                .map(Column::name)
                .filter(name -> !layout.isKey(name))
                .toList();
    }

    /** As merge of the standard writes it, for engines without a shorter way. */
    protected String merge(String table, Layout layout, String source) {
        String on = layout.key().stream()
                .map(key -> "t." + quote(key) + " = s." + quote(key))
                .collect(Collectors.joining(" AND "));
        String set = others(layout).stream()
                .map(name -> "t." + quote(name) + " = s." + quote(name))
                .collect(Collectors.joining(", "));
        String values = names(layout).stream().map(name -> "s." + quote(name)).collect(Collectors.joining(", "));
        return "MERGE INTO " + quote(table) + " t USING " + source + " ON (" + on + ") WHEN MATCHED THEN UPDATE SET "
                + set + " WHEN NOT MATCHED THEN INSERT (" + names(names(layout)) + ") VALUES (" + values + ")";
    }

    @Override
    public String call(String procedure, List<String> arguments) {
        return "CALL " + quote(procedure) + "(" + marks(Math.max(1, arguments.size())) + ")";
    }

    @Override
    public String createDatabase(String name) {
        return "CREATE DATABASE " + quote(name);
    }
}
