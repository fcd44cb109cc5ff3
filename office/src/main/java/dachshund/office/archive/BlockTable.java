package dachshund.office.archive;

import dachshund.core.archive.ArchiveStore;
import dachshund.core.archive.BlockCodec;
import dachshund.core.archive.Column;
import dachshund.core.archive.Series;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import javax.sql.DataSource;
import org.springframework.stereotype.Repository;

/** Blocks of the archive in our own database, in plain SQL: what stores, what reads, and what puts pieces together. */
@Repository
public class BlockTable implements ArchiveStore {

    private static final int MOST_ROWS = 250;
    private static final int MOST_BYTES = 4 << 20;
    private static final int MOST_NAME = 2000;

    private final DataSource dataSource;
    /** Tags that are in their table as they are; whoever renames one has it written again. */
    private final Map<Long, Tag> known = new HashMap<>();

    /**
     * A block as it is kept.
     *
     * @param id later ones were written later
     */
    public record Kept(long id, long span, int values, boolean whole, byte[] data) {}

    /** The pieces of a tag in one span. */
    public record Pieces(long tag, long span, int count) {}

    /** What is there of a tag. Times in ticks. */
    public record Extent(long tag, long values, long bytes, long blocks, long first, long last) {}

    public BlockTable(DataSource dataSource) {
        this.dataSource = dataSource;
    }

    private interface Work<T> {
        T with(Connection connection) throws SQLException;
    }

    private <T> T once(Work<T> work) throws Problem {
        try (Connection connection = dataSource.getConnection()) {
            connection.setAutoCommit(false);
            try {
                T result = work.with(connection);
                connection.commit();
                return result;
            } catch (SQLException | RuntimeException | Error broken) {
                back(connection, broken);
                throw broken;
            } finally {
                connection.setAutoCommit(true);
            }
        } catch (SQLException cannot) {
            throw new Problem("Our own database: " + cannot.getMessage(), cannot);
        }
    }

    private static void back(Connection connection, Throwable broken) {
        try {
            connection.rollback();
        } catch (SQLException gone) {
            broken.addSuppressed(gone);
        }
    }

    @Override
    public List<Lane> lanes() throws Problem {
        return once(connection -> {
            try (Statement statement = connection.createStatement();
                    ResultSet rows = statement.executeQuery("SELECT * FROM archive_lane")) {
                List<Lane> all = new ArrayList<>();
                while (rows.next()) {
                    all.add(new Lane(
                            rows.getString("journal"),
                            rows.getString("lane"),
                            rows.getLong("nth"),
                            rows.getLong("run"),
                            rows.getLong("at"),
                            new Counts(
                                    rows.getLong("offered"),
                                    rows.getLong("kept"),
                                    rows.getLong("replaced"),
                                    rows.getLong("within"),
                                    rows.getLong("refused"))));
                }
                return all;
            }
        });
    }

    @Override
    public void store(List<Block> blocks, List<Lane> lanes, List<Tag> tags) throws Problem {
        List<Tag> fresh =
                tags.stream().filter(tag -> !tag.equals(known.get(tag.key()))).toList();
        once(connection -> {
            name(connection, fresh);
            insert(connection, blocks, false);
            try (PreparedStatement statement = connection.prepareStatement(
                    "INSERT INTO archive_lane (journal, lane, nth, run, at, offered, kept, replaced, within, refused)"
                            + " VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?) ON DUPLICATE KEY UPDATE nth = VALUES(nth),"
                            + " run = VALUES(run), at = VALUES(at), offered = VALUES(offered), kept = VALUES(kept),"
                            + " replaced = VALUES(replaced), within = VALUES(within), refused = VALUES(refused)")) {
                for (Lane lane : lanes) {
                    statement.setString(1, lane.journal());
                    statement.setString(2, lane.lane());
                    statement.setLong(3, lane.nth());
                    statement.setLong(4, lane.run());
                    statement.setLong(5, lane.at());
                    statement.setLong(6, lane.counts().offered());
                    statement.setLong(7, lane.counts().kept());
                    statement.setLong(8, lane.counts().replaced());
                    statement.setLong(9, lane.counts().within());
                    statement.setLong(10, lane.counts().refused());
                    statement.addBatch();
                }
                statement.executeBatch();
            }
            return null;
        });
        fresh.forEach(tag -> known.put(tag.key(), tag));
    }

    /**
     * Keeps blocks that did not come through the journal.
     *
     * @param how under what they are counted: "brought in" from outside, or "filled" from a source's own history
     */
    public void bringIn(String how, List<Block> blocks, List<Tag> tags) throws Problem {
        once(connection -> {
            name(connection, tags);
            insert(connection, blocks, false);
            later(connection, how, blocks.stream().mapToLong(Block::values).sum());
            return null;
        });
    }

    private static void name(Connection connection, List<Tag> tags) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(
                "INSERT INTO archive_tag (tag, source, address, name, days) VALUES (?, ?, ?, ?, ?)"
                        + " ON DUPLICATE KEY UPDATE name = VALUES(name), days = VALUES(days)")) {
            for (Tag tag : tags) {
                statement.setLong(1, tag.key());
                statement.setString(2, tag.ref().source());
                statement.setString(3, cut(tag.ref().address()));
                statement.setString(4, cut(tag.name()));
                statement.setInt(5, tag.days());
                statement.addBatch();
            }
            statement.executeBatch();
        }
    }

    private static String cut(String text) {
        return text.length() <= MOST_NAME ? text : text.substring(0, MOST_NAME);
    }

    private static void insert(Connection connection, List<Block> blocks, boolean whole) throws SQLException {
        for (int from = 0; from < blocks.size(); ) {
            int to = from;
            long bytes = 0;
            while (to < blocks.size() && to - from < MOST_ROWS && (to == from || bytes < MOST_BYTES)) {
                bytes += blocks.get(to++).data().length;
            }
            String values = ", (?, ?, ?, ?, ?, ?, ?, ?, ?)".repeat(to - from).substring(2);
            try (PreparedStatement statement = connection.prepareStatement(
                    "INSERT INTO archive_block (tag, span, first_time, last_time, taken, sort, whole, bytes, data) VALUES "
                            + values)) {
                int at = 1;
                for (Block block : blocks.subList(from, to)) {
                    statement.setLong(at++, block.tag());
                    statement.setLong(at++, block.span());
                    statement.setLong(at++, block.first());
                    statement.setLong(at++, block.last());
                    statement.setInt(at++, block.values());
                    statement.setInt(at++, block.sort().ordinal());
                    statement.setBoolean(at++, whole);
                    statement.setInt(at++, block.data().length);
                    statement.setBytes(at++, block.data());
                }
                statement.executeUpdate();
            }
            from = to;
        }
    }

    /** The blocks of a tag in some spans, those that were written earlier first. */
    public List<Kept> blocks(long tag, long fromSpan, long toSpan) throws Problem {
        return once(connection -> blocks(connection, tag, fromSpan, toSpan, ""));
    }

    private static List<Kept> blocks(Connection connection, long tag, long fromSpan, long toSpan, String lock)
            throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(
                "SELECT id, span, taken, whole, data FROM archive_block WHERE tag = ? AND span BETWEEN ? AND ? ORDER BY id"
                        + lock)) {
            statement.setLong(1, tag);
            statement.setLong(2, fromSpan);
            statement.setLong(3, toSpan);
            try (ResultSet rows = statement.executeQuery()) {
                List<Kept> all = new ArrayList<>();
                while (rows.next()) {
                    all.add(new Kept(
                            rows.getLong(1), rows.getLong(2), rows.getInt(3), rows.getBoolean(4), rows.getBytes(5)));
                }
                return all;
            }
        }
    }

    /** How many values of a tag lie in some spans. */
    public long count(long tag, long fromSpan, long toSpan) throws Problem {
        return once(connection -> {
            try (PreparedStatement statement = connection.prepareStatement(
                    "SELECT COALESCE(SUM(taken), 0) FROM archive_block WHERE tag = ? AND span BETWEEN ? AND ?")) {
                statement.setLong(1, tag);
                statement.setLong(2, fromSpan);
                statement.setLong(3, toSpan);
                try (ResultSet rows = statement.executeQuery()) {
                    rows.next();
                    return rows.getLong(1);
                }
            }
        });
    }

    /** The last span before one in which there is anything of a tag. */
    public Optional<Long> spanBefore(long tag, long span) throws Problem {
        return once(connection -> {
            try (PreparedStatement statement =
                    connection.prepareStatement("SELECT MAX(span) FROM archive_block WHERE tag = ? AND span < ?")) {
                statement.setLong(1, tag);
                statement.setLong(2, span);
                try (ResultSet rows = statement.executeQuery()) {
                    rows.next();
                    long found = rows.getLong(1);
                    return rows.wasNull() ? Optional.empty() : Optional.of(found);
                }
            }
        });
    }

    /**
     * Where blocks are in pieces: spans that are over, and of those that go on the ones with many pieces.
     *
     * @param before spans before this one are over
     * @param many   so many pieces of a span that goes on
     */
    public List<Pieces> inPieces(long before, int many, int most) throws Problem {
        return once(connection -> {
            try (PreparedStatement statement = connection.prepareStatement(
                    "SELECT tag, span, COUNT(*) AS pieces FROM archive_block WHERE whole = 0 GROUP BY span, tag"
                            + " HAVING span < ? OR pieces >= ? ORDER BY span LIMIT ?")) {
                statement.setLong(1, before);
                statement.setInt(2, many);
                statement.setInt(3, most);
                try (ResultSet rows = statement.executeQuery()) {
                    List<Pieces> all = new ArrayList<>();
                    while (rows.next()) {
                        all.add(new Pieces(rows.getLong(1), rows.getLong(2), rows.getInt(3)));
                    }
                    return all;
                }
            }
        });
    }

    /** Makes of the blocks of a tag in a span as few as there are sorts of values. What cannot be read stays as it is. */
    public void putTogether(long tag, long span) throws Problem {
        once(connection -> {
            // Nobody else, another program on these tables neither, puts the same ones together meanwhile.
            List<Kept> pieces = blocks(connection, tag, span, span, " FOR UPDATE");
            List<Column> columns = new ArrayList<>();
            Set<Long> read = new HashSet<>();
            Set<Long> unread = new HashSet<>();
            long before = 0;
            for (Kept piece : pieces) {
                try {
                    columns.add(BlockCodec.read(piece.data()));
                    read.add(piece.id());
                    before += piece.values();
                } catch (BlockCodec.Damaged damaged) {
                    unread.add(piece.id());
                }
            }
            Series series = Series.of(columns);
            List<Block> blocks = Block.of(tag, series);
            insert(connection, blocks, true);
            delete(connection, read);
            asTheyAre(connection, unread);
            long after = blocks.stream().mapToLong(Block::values).sum();
            later(connection, "replaced", before - after);
            return null;
        });
    }

    private static void delete(Connection connection, Set<Long> ids) throws SQLException {
        each(connection, "DELETE FROM archive_block WHERE id = ?", ids);
    }

    private static void asTheyAre(Connection connection, Set<Long> ids) throws SQLException {
        each(connection, "UPDATE archive_block SET whole = 1 WHERE id = ?", ids);
    }

    private static void each(Connection connection, String sql, Set<Long> ids) throws SQLException {
        if (ids.isEmpty()) {
            return;
        }
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            for (long id : ids) {
                statement.setLong(1, id);
                statement.addBatch();
            }
            statement.executeBatch();
        }
    }

    private static void later(Connection connection, String what, long values) throws SQLException {
        if (values == 0) {
            return;
        }
        try (PreparedStatement statement = connection.prepareStatement(
                "INSERT INTO archive_later (what, taken) VALUES (?, ?) ON DUPLICATE KEY UPDATE taken = taken + VALUES(taken)")) {
            statement.setString(1, what);
            statement.setLong(2, values);
            statement.executeUpdate();
        }
    }

    /** Of tags whose values are kept for so long and no longer, for how many days, by their numbers. */
    public Map<Long, Integer> days() throws Problem {
        return once(connection -> {
            try (Statement statement = connection.createStatement();
                    ResultSet rows = statement.executeQuery("SELECT tag, days FROM archive_tag WHERE days > 0")) {
                Map<Long, Integer> all = new HashMap<>();
                while (rows.next()) {
                    all.put(rows.getLong(1), rows.getInt(2));
                }
                return all;
            }
        });
    }

    /**
     * Removes some of the blocks of a tag of which all is older than an instant; how many blocks those were.
     *
     * @param before ticks
     * @param most   so many at once
     */
    public int removeBefore(long tag, long before, int most) throws Problem {
        return once(connection -> {
            Map<Long, Integer> old = new HashMap<>();
            try (PreparedStatement statement = connection.prepareStatement(
                    "SELECT id, taken FROM archive_block WHERE tag = ? AND span < ? AND last_time < ? ORDER BY span LIMIT ?")) {
                statement.setLong(1, tag);
                statement.setLong(2, ArchiveStore.spanOf(before) + 1);
                statement.setLong(3, before);
                statement.setInt(4, most);
                try (ResultSet rows = statement.executeQuery()) {
                    while (rows.next()) {
                        old.put(rows.getLong(1), rows.getInt(2));
                    }
                }
            }
            delete(connection, old.keySet());
            later(
                    connection,
                    "removed",
                    old.values().stream().mapToLong(Integer::longValue).sum());
            return old.size();
        });
    }

    /** What is there of each tag. */
    public Map<Long, Extent> extents() throws Problem {
        return once(connection -> {
            try (Statement statement = connection.createStatement();
                    ResultSet rows = statement.executeQuery(
                            "SELECT block.tag, SUM(taken), SUM(bytes), COUNT(*), MIN(first_time), MAX(last_time)"
                                    + " FROM archive_block AS block GROUP BY block.tag")) {
                List<Extent> all = new ArrayList<>();
                while (rows.next()) {
                    all.add(new Extent(
                            rows.getLong(1),
                            rows.getLong(2),
                            rows.getLong(3),
                            rows.getLong(4),
                            rows.getLong(5),
                            rows.getLong(6)));
                }
                return all.stream().collect(Collectors.toMap(Extent::tag, each -> each));
            }
        });
    }

    /**
     * What there was beside the lanes: values that were brought in; that, after they were stored, gave way to another
     * (replaced); that were removed. What is there is what lanes kept and what was brought in, less what was replaced and
     * removed.
     */
    public Map<String, Long> later() throws Problem {
        return once(connection -> {
            try (Statement statement = connection.createStatement();
                    ResultSet rows = statement.executeQuery("SELECT what, taken FROM archive_later")) {
                Map<String, Long> all = new HashMap<>();
                while (rows.next()) {
                    all.put(rows.getString(1), rows.getLong(2));
                }
                return all;
            }
        });
    }
}
