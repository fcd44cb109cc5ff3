package dachshund.links.jdbc;

import dachshund.core.reader.FoundTable;
import dachshund.core.reader.TableName;
import dachshund.core.reader.TableShape;
import java.sql.Connection;
import java.sql.DatabaseMetaData;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;
import java.util.TreeMap;

/** Which tables and views there are, with their columns and keys, as JDBC itself describes them. */
final class TableDescriptions {

    /** Those of the engines themselves. */
    private static final Set<String> OWN =
            Set.of("information_schema", "performance_schema", "mysql", "sys", "pg_catalog", "pg_toast");

    private final JdbcEngine engine;

    TableDescriptions(JdbcEngine engine) {
        this.engine = engine;
    }

    /** What the database calls a part of it that has tables: a schema, or with MariaDB a database. */
    private record Place(String catalog, String schema) {

        static Place of(Connection connection, TableName table) throws SQLException {
            return connection.getMetaData().supportsSchemasInTableDefinitions()
                    ? new Place(null, table.schema())
                    : new Place(table.schema().isEmpty() ? null : table.schema(), null);
        }

        /** Where what lies apart are databases, each is a place of its own: what holds for connections holds for it. */
        boolean allowed(JdbcEngine engine) throws SQLException {
            try {
                if (catalog != null) {
                    engine.mayReach(catalog);
                }
                return true;
            } catch (RefusedPlace refused) {
                return false;
            }
        }

        static TableName name(ResultSet rows, String catalog, String schema, String table) throws SQLException {
            String in = rows.getString(schema) != null ? rows.getString(schema) : rows.getString(catalog);
            return new TableName(in == null ? "" : in, rows.getString(table));
        }
    }

    List<FoundTable> tables(Connection connection) throws SQLException {
        Map<TableName, Long> rows = engine.estimates(connection);
        Map<String, Boolean> allowed = new HashMap<>();
        Map<TableName, FoundTable> found = new TreeMap<>();
        try (ResultSet tables = connection.getMetaData().getTables(null, null, "%", null)) {
            while (tables.next()) {
                TableName name = Place.name(tables, "TABLE_CAT", "TABLE_SCHEM", "TABLE_NAME");
                String type = String.valueOf(tables.getString("TABLE_TYPE")).toUpperCase(Locale.ROOT);
                if (type.startsWith("SYSTEM") || !type.contains("VIEW") && !type.contains("TABLE") || ofEngine(name)) {
                    continue;
                }
                // Asked once for each schema: it may look a host up.
                if (!allowed.containsKey(name.schema())) {
                    allowed.put(name.schema(), Place.of(connection, name).allowed(engine));
                }
                if (allowed.get(name.schema())) {
                    OptionalLong about =
                            rows.containsKey(name) ? OptionalLong.of(rows.get(name)) : OptionalLong.empty();
                    found.put(name, new FoundTable(name, type.contains("VIEW"), about));
                }
            }
        }
        return List.copyOf(found.values());
    }

    private static boolean ofEngine(TableName name) {
        return OWN.contains(name.schema().toLowerCase(Locale.ROOT))
                || name.name().startsWith("sqlite_");
    }

    /** Empty where it is not there, or may not be read. */
    Optional<TableShape> shape(Connection connection, TableName table) throws SQLException {
        DatabaseMetaData meta = connection.getMetaData();
        Place place = Place.of(connection, table);
        if (!place.allowed(engine)) {
            return Optional.empty();
        }
        List<TableShape.Column> columns = new ArrayList<>();
        try (ResultSet found =
                meta.getColumns(place.catalog(), pattern(meta, place.schema()), pattern(meta, table.name()), null)) {
            while (found.next()) {
                TableName of = Place.name(found, "TABLE_CAT", "TABLE_SCHEM", "TABLE_NAME");
                if (of.name().equals(table.name())
                        && (table.schema().isEmpty() || of.schema().equals(table.schema()))) {
                    String type = String.valueOf(found.getString("TYPE_NAME"));
                    columns.add(new TableShape.Column(
                            found.getString("COLUMN_NAME"),
                            type,
                            AnyCell.sort(found.getInt("DATA_TYPE"), type, engine.typesByCell()),
                            !"NO".equals(found.getString("IS_NULLABLE"))));
                }
            }
        }
        return columns.isEmpty()
                ? Optional.empty()
                : Optional.of(new TableShape(table, List.copyOf(columns), keys(meta, place, table)));
    }

    private static String pattern(DatabaseMetaData meta, String name) throws SQLException {
        String escape = meta.getSearchStringEscape();
        return name == null
                ? null
                : name.replace(escape, escape + escape)
                        .replace("_", escape + "_")
                        .replace("%", escape + "%");
    }

    private static List<TableShape.Key> keys(DatabaseMetaData meta, Place place, TableName table) throws SQLException {
        List<TableShape.Key> keys = new ArrayList<>();
        Map<Integer, String> primary = new TreeMap<>();
        try (ResultSet found = meta.getPrimaryKeys(place.catalog(), place.schema(), table.name())) {
            while (found.next()) {
                primary.put(found.getInt("KEY_SEQ"), found.getString("COLUMN_NAME"));
            }
        }
        if (!primary.isEmpty()) {
            keys.add(new TableShape.Key(List.copyOf(primary.values()), true, Optional.empty()));
        }
        Map<String, List<String>> columns = new LinkedHashMap<>();
        Map<String, TableName> leads = new LinkedHashMap<>();
        int unnamed = 0;
        try (ResultSet found = meta.getImportedKeys(place.catalog(), place.schema(), table.name())) {
            while (found.next()) {
                unnamed += found.getInt("KEY_SEQ") == 1 ? 1 : 0;
                String name = found.getString("FK_NAME");
                String key = name == null || name.isEmpty() ? "key " + unnamed : name;
                columns.computeIfAbsent(key, each -> new ArrayList<>()).add(found.getString("FKCOLUMN_NAME"));
                leads.put(key, Place.name(found, "PKTABLE_CAT", "PKTABLE_SCHEM", "PKTABLE_NAME"));
            }
        }
        columns.forEach(
                (name, of) -> keys.add(new TableShape.Key(List.copyOf(of), false, Optional.of(leads.get(name)))));
        return List.copyOf(keys);
    }
}
