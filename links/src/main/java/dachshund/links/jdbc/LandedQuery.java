package dachshund.links.jdbc;

import dachshund.core.destination.RowBatch;
import dachshund.core.layout.Column;
import dachshund.core.row.RowId;
import dachshund.core.sql.Dialect;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.Collections;
import java.util.HashSet;
import java.util.Optional;
import java.util.Set;

/** Asks which rows of a batch are in their table, by their identities. */
final class LandedQuery {

    private LandedQuery() {}

    static Set<RowId> of(Connection connection, Dialect dialect, RowBatch batch) throws SQLException {
        Optional<Column> column = batch.layout().rowIdColumn();
        if (column.isEmpty() || batch.rows().isEmpty()) {
            return Set.of();
        }
        String name = dialect.quote(column.get().name());
        String sql = "SELECT " + name + " FROM " + dialect.quote(batch.table()) + " WHERE " + name + " IN ("
                + String.join(",", Collections.nCopies(batch.rows().size(), "?")) + ")";
        Set<RowId> there = new HashSet<>();
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            for (int i = 0; i < batch.rows().size(); i++) {
                statement.setString(i + 1, batch.rows().get(i).id().toString());
            }
            try (ResultSet rows = statement.executeQuery()) {
                while (rows.next()) {
                    there.add(RowId.read(rows.getString(1)));
                }
            }
        }
        return there;
    }
}
