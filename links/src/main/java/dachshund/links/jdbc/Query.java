package dachshund.links.jdbc;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;

/** Short questions to a database, answered as text. */
public final class Query {

    private Query() {}

    /** @param columns how many columns the answer has; NULL is null */
    public static List<List<String>> rows(Connection connection, int columns, String sql, String... parameters)
            throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            for (int i = 0; i < parameters.length; i++) {
                statement.setString(i + 1, parameters[i]);
            }
            try (ResultSet rows = statement.executeQuery()) {
                List<List<String>> found = new ArrayList<>();
                while (rows.next()) {
                    List<String> row = new ArrayList<>(columns);
                    for (int i = 1; i <= columns; i++) {
                        row.add(rows.getString(i));
                    }
                    found.add(row);
                }
                return found;
            }
        }
    }

    /** The first column alone. */
    public static List<String> texts(Connection connection, String sql, String... parameters) throws SQLException {
        return rows(connection, 1, sql, parameters).stream()
                .map(row -> row.get(0))
                .toList();
    }
}
