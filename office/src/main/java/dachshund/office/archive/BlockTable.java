package dachshund.office.archive;

import dachshund.core.aggregate.Samples;
import dachshund.core.archive.ArchiveStore;
import dachshund.core.archive.BlockCodec;
import dachshund.core.archive.Column;
import dachshund.core.archive.Series;
import dachshund.core.archive.Summary;
import dachshund.core.archive.Summary.Unit;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Comparator;
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
    /** What a block is: as it came, put together, put together and no shorter as a summary, so that it stays as one, or a summary without values. */
    private static final int PIECE = 0;

    private static final int WHOLE = 1;
    static final int ITS_OWN_SUMMARY = 2;
    private static final int SUMMARY_ALONE = 3;

    private final OneStep step;
    /** Tags that are in their table as they are; whoever renames one has it written again. */
    private final Map<Long, Tag> known = new HashMap<>();

    /**
     * A block as it is kept.
     *
     * @param id later ones were written later
     */
    public record Kept(long id, long span, long first, int values, boolean whole, byte[] data) {}

    /** The pieces of a tag in one span. */
    public record Pieces(long tag, long span, int count) {}

    /** What is there of a tag. Times in ticks. */
    public record Extent(long tag, long values, long bytes, long blocks, long first, long last) {}

    public BlockTable(DataSource dataSource) {
        this.step = new OneStep(dataSource);
    }

    @Override
    public List<Lane> lanes() throws Problem {
        return step.list(
                "SELECT * FROM archive_lane",
                row -> new Lane(
                        row.getString("journal"),
                        row.getString("lane"),
                        row.getLong("nth"),
                        row.getLong("run"),
                        row.getLong("at"),
                        new Counts(
                                row.getLong("offered"),
                                row.getLong("kept"),
                                row.getLong("replaced"),
                                row.getLong("within"),
                                row.getLong("refused"))));
    }

    @Override
    public void offer(List<Block> blocks, List<Tag> tags) throws Problem {
        step.once(connection -> {
            name(connection, tags);
            insert(connection, blocks);
            connection.rollback();
            return null;
        });
    }

    @Override
    public void store(List<Block> blocks, List<Lane> lanes, List<Tag> tags) throws Problem {
        List<Tag> fresh =
                tags.stream().filter(tag -> !tag.equals(known.get(tag.key()))).toList();
        step.once(connection -> {
            name(connection, fresh);
            insert(connection, blocks);
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
        step.once(connection -> {
            name(connection, tags);
            insert(connection, blocks);
            later(connection, how, blocks.stream().mapToLong(Block::values).sum());
            return null;
        });
    }

    static void name(Connection connection, List<Tag> tags) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(
                "INSERT INTO archive_tag (tag, source, address, name, days, summaries) VALUES (?, ?, ?, ?, ?, ?)"
                        + " ON DUPLICATE KEY UPDATE name = VALUES(name), days = VALUES(days), summaries = VALUES(summaries)")) {
            for (Tag tag : tags) {
                statement.setLong(1, tag.key());
                statement.setString(2, tag.ref().source());
                statement.setString(3, cut(tag.ref().address()));
                statement.setString(4, cut(tag.name()));
                statement.setInt(5, tag.lasting().days());
                statement.setInt(6, tag.lasting().summaries());
                statement.addBatch();
            }
            statement.executeBatch();
        }
    }

    private static String cut(String text) {
        return text.length() <= MOST_NAME ? text : text.substring(0, MOST_NAME);
    }

    /** A block that was put together, with its summaries where it has such. */
    private record Whole(Block block, Optional<byte[]> minutes, Optional<byte[]> hours) {

        static Whole of(long tag, Column column) {
            return new Whole(Block.of(tag, column), Summary.of(column, Unit.MINUTE), Summary.of(column, Unit.HOUR));
        }

        int bytes() {
            return block.data().length
                    + minutes.map(each -> each.length).orElse(0)
                    + hours.map(each -> each.length).orElse(0);
        }
    }

    static void insert(Connection connection, List<Block> blocks) throws SQLException {
        insert(
                connection,
                blocks.stream()
                        .map(block -> new Whole(block, Optional.empty(), Optional.empty()))
                        .toList(),
                PIECE);
    }

    private static void insert(Connection connection, List<Whole> blocks, int state) throws SQLException {
        for (int from = 0; from < blocks.size(); ) {
            int to = from;
            long bytes = 0;
            while (to < blocks.size() && to - from < MOST_ROWS && (to == from || bytes < MOST_BYTES)) {
                bytes += blocks.get(to++).bytes();
            }
            String values =
                    ", (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)".repeat(to - from).substring(2);
            try (PreparedStatement statement = connection.prepareStatement(
                    "INSERT INTO archive_block (tag, span, first_time, last_time, taken, sort, whole, bytes, data, minutes, hours)"
                            + " VALUES " + values)) {
                int at = 1;
                for (Whole each : blocks.subList(from, to)) {
                    Block block = each.block();
                    statement.setLong(at++, block.tag());
                    statement.setLong(at++, block.span());
                    statement.setLong(at++, block.first());
                    statement.setLong(at++, block.last());
                    statement.setInt(at++, block.values());
                    statement.setInt(at++, block.sort().ordinal());
                    statement.setInt(at++, state);
                    statement.setInt(at++, each.bytes());
                    statement.setBytes(at++, block.data());
                    statement.setBytes(at++, each.minutes().orElse(null));
                    statement.setBytes(at++, each.hours().orElse(null));
                }
                statement.executeUpdate();
            }
            from = to;
        }
    }

    /** The blocks of a tag in some spans, those that were written earlier first. */
    public List<Kept> blocks(long tag, long fromSpan, long toSpan) throws Problem {
        return step.ask(connection -> blocks(connection, tag, fromSpan, toSpan, ""));
    }

    private static List<Kept> blocks(Connection connection, long tag, long fromSpan, long toSpan, String lock)
            throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(
                "SELECT id, span, first_time, taken, whole, data FROM archive_block WHERE tag = ? AND span BETWEEN ? AND ?"
                        + " AND whole <> 3 ORDER BY id" + lock)) {
            statement.setLong(1, tag);
            statement.setLong(2, fromSpan);
            statement.setLong(3, toSpan);
            try (ResultSet rows = statement.executeQuery()) {
                List<Kept> all = new ArrayList<>();
                while (rows.next()) {
                    all.add(new Kept(
                            rows.getLong(1),
                            rows.getLong(2),
                            rows.getLong(3),
                            rows.getInt(4),
                            rows.getInt(5) != PIECE,
                            rows.getBytes(6)));
                }
                return all;
            }
        }
    }

    /** How many values of a tag lie in some spans. */
    public long count(long tag, long fromSpan, long toSpan) throws Problem {
        return step.ask(connection -> {
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

    /** About how many samples {@link #thin} gives of some spans. */
    public long weight(long tag, long fromSpan, long toSpan, Unit unit) throws Problem {
        return step.ask(connection -> {
            try (PreparedStatement statement = connection.prepareStatement(
                    "SELECT COALESCE(SUM(IF(? AND hours IS NOT NULL, 16, IF(minutes IS NOT NULL, 960, taken))), 0)"
                            + " FROM archive_block WHERE tag = ? AND span BETWEEN ? AND ?")) {
                statement.setBoolean(1, unit == Unit.HOUR);
                statement.setLong(2, tag);
                statement.setLong(3, fromSpan);
                statement.setLong(4, toSpan);
                try (ResultSet rows = statement.executeQuery()) {
                    rows.next();
                    return rows.getLong(1);
                }
            }
        });
    }

    /** The last span before one in which there is anything of a tag. */
    public Optional<Long> spanBefore(long tag, long span) throws Problem {
        return step.ask(connection -> spanBefore(connection, tag, span));
    }

    private static Optional<Long> spanBefore(Connection connection, long tag, long span) throws SQLException {
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
    }

    /**
     * What an index knows of a block. No two of one tag are equal that differ in what they hold.
     *
     * @param values 0 where there are none, or where they are not kept any longer
     * @param bytes  of all of it, summaries too
     */
    public record Head(long id, long span, long first, long last, int values, int bytes) {

        /** Whether blocks, in the order of their times, follow each other: none begins before the one before has ended. */
        static boolean follow(List<Head> blocks) {
            for (int i = 1; i < blocks.size(); i++) {
                if (blocks.get(i).first() <= blocks.get(i - 1).last()) {
                    return false;
                }
            }
            return true;
        }
    }

    /** The blocks of a tag in some spans and in the last one before them that has any, in the order of their spans and times. */
    public List<Head> heads(long tag, long fromSpan, long toSpan) throws Problem {
        List<Head> all = step.list(
                "SELECT id, span, first_time, last_time, taken, bytes FROM archive_block WHERE tag = ? AND span BETWEEN"
                        + " COALESCE((SELECT MAX(span) FROM archive_block WHERE tag = ? AND span < ?), ?) AND ?",
                BlockTable::head,
                tag,
                tag,
                fromSpan,
                fromSpan,
                toSpan);
        all.sort(Comparator.comparingLong(Head::span).thenComparingLong(Head::first));
        return all;
    }

    private static Head head(ResultSet rows) throws SQLException {
        return new Head(
                rows.getLong(1), rows.getLong(2), rows.getLong(3), rows.getLong(4), rows.getInt(5), rows.getInt(6));
    }

    /**
     * A block as whoever folds reads it.
     *
     * @param bytes a {@link Summary}, or the values themselves
     */
    public record Thin(Head head, int state, byte[] bytes) {

        /** Whether its values are not kept any longer. */
        public boolean gone() {
            return state == SUMMARY_ALONE;
        }
    }

    /**
     * The blocks of a tag in some spans, as summaries where there are such, in the order of their spans and times. What is long
     * is read where it is needed only: a database that is asked for one of several fetches all of them.
     *
     * @param unit the longest unit that the intervals begin and end with
     * @param most samples, about; empty where there are more
     */
    public Optional<List<Thin>> thin(long tag, long fromSpan, long toSpan, Unit unit, long most) throws Problem {
        String summaries = unit == Unit.HOUR ? thin("hours", "") : thin("minutes", "");
        List<Thin> all = new ArrayList<>();
        long others = step.ask(connection -> thin(connection, summaries, tag, fromSpan, toSpan, all));
        if (others + (long) all.size() * samples(unit) > most) {
            return Optional.empty();
        }
        if (others > 0) {
            all.clear();
            String whole = unit == Unit.HOUR
                    ? thin("COALESCE(minutes, data)", " AND hours IS NULL")
                    : thin("data", " AND minutes IS NULL");
            // Both as of one moment, since they may be put together meanwhile.
            step.once(connection -> thin(connection, summaries, tag, fromSpan, toSpan, all) == 0
                    || thin(connection, whole, tag, fromSpan, toSpan, all) == 0);
        }
        all.sort(Comparator.<Thin>comparingLong(each -> each.head().span())
                .thenComparingLong(each -> each.head().first()));
        return Optional.of(all);
    }

    private static String thin(String what, String which) {
        return "SELECT id, span, first_time, last_time, taken, bytes, whole, " + what
                + " FROM archive_block WHERE tag = ? AND span BETWEEN ? AND ?" + which;
    }

    /** Of a summary, about: two of each minute or hour. */
    private static int samples(Unit unit) {
        return (int) (2 * ArchiveStore.SPAN / unit.ticks());
    }

    /** How many values there are without what was asked for. */
    private static long thin(Connection connection, String sql, long tag, long fromSpan, long toSpan, List<Thin> into)
            throws SQLException {
        long others = 0;
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            statement.setLong(1, tag);
            statement.setLong(2, fromSpan);
            statement.setLong(3, toSpan);
            try (ResultSet rows = statement.executeQuery()) {
                while (rows.next()) {
                    Head head = head(rows);
                    byte[] bytes = rows.getBytes(8);
                    if (bytes == null) {
                        // A gap alone is no value, and has to be read as well.
                        others += Math.max(1, head.values());
                    } else {
                        into.add(new Thin(head, rows.getInt(7), bytes));
                    }
                }
            }
        }
        return others;
    }

    /**
     * Where blocks are in pieces: spans that are over, and of those that go on the ones with many pieces.
     *
     * @param before spans before this one are over
     * @param many   so many pieces of a span that goes on
     */
    public List<Pieces> inPieces(long before, int many, int most) throws Problem {
        return step.list(
                "SELECT tag, span, COUNT(*) AS pieces FROM archive_block WHERE whole = 0 GROUP BY span, tag"
                        + " HAVING span < ? OR pieces >= ? ORDER BY span LIMIT ?",
                row -> new Pieces(row.getLong(1), row.getLong(2), row.getInt(3)),
                before,
                many,
                most);
    }

    /**
     * Makes of the blocks of a tag in a span as few as there are sorts of values, with their summaries, and its hours anew. What
     * cannot be read stays as it is.
     *
     * @param now ticks
     */
    public void putTogether(long tag, long span, long now) throws Problem {
        step.once(connection -> {
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
            List<Whole> blocks = Block.columns(series).stream()
                    .map(column -> Whole.of(tag, column))
                    .toList();
            insert(connection, blocks, WHOLE);
            delete(connection, read);
            asTheyAre(connection, unread);
            hours(connection, tag, span, numbers(columns), now);
            Optional<Long> next = spanWithHours(connection, tag, span);
            if (next.isPresent()) {
                // What holds at its beginning is known otherwise now.
                hours(connection, tag, next.get(), samples(connection, tag, next.get()), now);
            }
            long after =
                    blocks.stream().mapToLong(each -> each.block().values()).sum();
            later(connection, "replaced", before - after);
            return null;
        });
    }

    /** Hours of a span of which values are gone stay as they were: those that are left are not all. */
    private static void hours(Connection connection, long tag, long span, Samples values, long now)
            throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(
                "SELECT COUNT(*) FROM archive_block WHERE tag = ? AND span = ? AND whole = 3")) {
            statement.setLong(1, tag);
            statement.setLong(2, span);
            try (ResultSet rows = statement.executeQuery()) {
                rows.next();
                if (rows.getInt(1) > 0) {
                    return;
                }
            }
        }
        HourTable.write(connection, tag, span, heldBefore(connection, tag, span), values, now);
    }

    /** The next span behind one, if there are hours of it. */
    private static Optional<Long> spanWithHours(Connection connection, long tag, long span) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(
                "SELECT MIN(span) FROM archive_block WHERE tag = ? AND span > ? AND whole IN (1, 2)")) {
            statement.setLong(1, tag);
            statement.setLong(2, span);
            try (ResultSet rows = statement.executeQuery()) {
                rows.next();
                long found = rows.getLong(1);
                return rows.wasNull() ? Optional.empty() : Optional.of(found);
            }
        }
    }

    private static Samples samples(Connection connection, long tag, long span) throws SQLException {
        List<Column> columns = new ArrayList<>();
        for (Kept kept : blocks(connection, tag, span, span, "")) {
            try {
                columns.add(BlockCodec.read(kept.data()));
            } catch (BlockCodec.Damaged damaged) {
                // It is told by whoever reads it; the others are put together all the same.
                columns.add(new Column(Column.Sort.NUMBER, 0));
            }
        }
        return numbers(columns);
    }

    /** None of a tag that has texts alone. */
    private static Samples numbers(List<Column> columns) {
        return columns.stream().allMatch(column -> column.sort() == Column.Sort.TEXT)
                ? new Samples(0)
                : Series.of(columns).samples();
    }

    /** The last value before a span, a gap too; none where there is none. */
    private static Samples heldBefore(Connection connection, long tag, long span) throws SQLException {
        Samples last = new Samples(1);
        Optional<Long> before = spanBefore(connection, tag, span);
        Samples all = before.isPresent() ? samples(connection, tag, before.get()) : last;
        if (all.size() > 0) {
            last.add(all.time(all.size() - 1), all.value(all.size() - 1), all.grade(all.size() - 1));
        }
        return last;
    }

    static void delete(Connection connection, Set<Long> ids) throws SQLException {
        each(connection, "DELETE FROM archive_block WHERE id = ?", ids);
    }

    private static void asTheyAre(Connection connection, Set<Long> ids) throws SQLException {
        each(connection, "UPDATE archive_block SET whole = 1 WHERE id = ?", ids);
    }

    static void each(Connection connection, String sql, Set<Long> ids) throws SQLException {
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

    static void later(Connection connection, String what, long values) throws SQLException {
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

    /** What is there of each tag. */
    public Map<Long, Extent> extents() throws Problem {
        return step
                .list(
                        "SELECT kept.tag, SUM(taken), SUM(bytes), COUNT(*), MIN(first_time), MAX(last_time)"
                                + " FROM archive_block AS kept GROUP BY kept.tag",
                        row -> new Extent(
                                row.getLong(1),
                                row.getLong(2),
                                row.getLong(3),
                                row.getLong(4),
                                row.getLong(5),
                                row.getLong(6)))
                .stream()
                .collect(Collectors.toMap(Extent::tag, each -> each));
    }

    /**
     * What there was beside the lanes: values that were brought in; that, after they were stored, gave way to another
     * (replaced); that were removed. What is there is what lanes kept and what was brought in, less what was replaced and
     * removed.
     */
    public Map<String, Long> later() throws Problem {
        return step.ask(connection -> {
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
