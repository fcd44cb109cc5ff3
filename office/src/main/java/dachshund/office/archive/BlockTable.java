package dachshund.office.archive;

import dachshund.core.aggregate.Samples;
import dachshund.core.archive.ArchiveStore;
import dachshund.core.archive.BlockCodec;
import dachshund.core.archive.Column;
import dachshund.core.archive.KeptFor;
import dachshund.core.archive.Series;
import dachshund.core.archive.Summary;
import dachshund.core.archive.Summary.Unit;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
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
    private static final int ITS_OWN_SUMMARY = 2;
    private static final int SUMMARY_ALONE = 3;

    private static final String FROM_THE_SPAN_BEFORE = " FROM archive_block WHERE tag = ? AND span BETWEEN COALESCE("
            + "(SELECT MAX(span) FROM archive_block WHERE tag = ? AND span < ?), ?) AND ?";

    private final DataSource dataSource;
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

    /** A question that changes nothing: no transaction, and so fewer trips to the database. */
    private <T> T ask(Work<T> work) throws Problem {
        try (Connection connection = dataSource.getConnection()) {
            return work.with(connection);
        } catch (SQLException cannot) {
            throw new Problem("Our own database: " + cannot.getMessage(), cannot);
        }
    }

    @Override
    public List<Lane> lanes() throws Problem {
        return ask(connection -> {
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
    public void offer(List<Block> blocks, List<Tag> tags) throws Problem {
        once(connection -> {
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
        once(connection -> {
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
        once(connection -> {
            name(connection, tags);
            insert(connection, blocks);
            later(connection, how, blocks.stream().mapToLong(Block::values).sum());
            return null;
        });
    }

    /**
     * A value that somebody entered.
     *
     * @param at      ticks
     * @param was     what was there before; empty where there was nothing that could be used
     * @param wasMark its quality, where there was anything
     * @param now     what is there since; empty where nothing that can be used
     */
    public record Entered(
            long at,
            Optional<String> was,
            Optional<Integer> wasMark,
            Optional<String> now,
            String why,
            String who,
            Instant noted) {}

    /** Keeps a value that somebody entered, and what was there before, in one step. */
    public void enter(List<Block> blocks, Tag tag, Entered entered) throws Problem {
        once(connection -> {
            name(connection, List.of(tag));
            insert(connection, blocks);
            later(
                    connection,
                    "by hand",
                    blocks.stream().mapToLong(Block::values).sum());
            try (PreparedStatement statement = connection.prepareStatement(
                    "INSERT INTO archive_by_hand (tag, at, was, was_mark, is_now, why, who, noted) VALUES (?, ?, ?, ?, ?, ?, ?, ?)")) {
                statement.setLong(1, tag.key());
                statement.setLong(2, entered.at());
                statement.setString(3, entered.was().orElse(null));
                statement.setObject(4, entered.wasMark().orElse(null));
                statement.setString(5, entered.now().orElse(null));
                statement.setString(6, entered.why());
                statement.setString(7, entered.who());
                statement.setObject(8, LocalDateTime.ofInstant(entered.noted(), ZoneOffset.UTC));
                statement.executeUpdate();
            }
            return null;
        });
    }

    /** What was entered of a tag from one tick up to another, the newest entry first. */
    public List<Entered> entered(long tag, long from, long to) throws Problem {
        return ask(connection -> {
            try (PreparedStatement statement = connection.prepareStatement(
                    "SELECT at, was, was_mark, is_now, why, who, noted FROM archive_by_hand WHERE tag = ? AND at >= ? AND at < ?"
                            + " ORDER BY id DESC LIMIT 10000")) {
                statement.setLong(1, tag);
                statement.setLong(2, from);
                statement.setLong(3, to);
                try (ResultSet rows = statement.executeQuery()) {
                    List<Entered> all = new ArrayList<>();
                    while (rows.next()) {
                        all.add(new Entered(
                                rows.getLong(1),
                                Optional.ofNullable(rows.getString(2)),
                                Optional.ofNullable(rows.getObject(3, Integer.class)),
                                Optional.ofNullable(rows.getString(4)),
                                rows.getString(5),
                                rows.getString(6),
                                rows.getObject(7, LocalDateTime.class).toInstant(ZoneOffset.UTC)));
                    }
                    return all;
                }
            }
        });
    }

    private static void name(Connection connection, List<Tag> tags) throws SQLException {
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

    private static void insert(Connection connection, List<Block> blocks) throws SQLException {
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
        return ask(connection -> blocks(connection, tag, fromSpan, toSpan, ""));
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
        return ask(connection -> {
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
        return ask(connection -> {
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
        return ask(connection -> spanBefore(connection, tag, span));
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
     * A block as whoever folds reads it.
     *
     * @param bytes a {@link Summary}, or the values themselves
     */
    public record Thin(long span, long first, long last, int state, byte[] bytes) {

        /** Whether its values are not kept any longer. */
        public boolean gone() {
            return state == SUMMARY_ALONE;
        }
    }

    /**
     * The blocks of a tag in some spans and in the last one before them that has any, as summaries where there are such, in the order of their spans and times. What is
     * long is read where it is needed only: a database that is asked for one of several fetches all of them.
     *
     * @param unit the longest unit that the intervals begin and end with
     */
    public List<Thin> thin(long tag, long fromSpan, long toSpan, Unit unit) throws Problem {
        String summaries = unit == Unit.HOUR
                ? "SELECT span, first_time, last_time, whole, hours" + FROM_THE_SPAN_BEFORE
                : "SELECT span, first_time, last_time, whole, minutes" + FROM_THE_SPAN_BEFORE;
        List<Thin> all = new ArrayList<>();
        if (ask(connection -> thin(connection, summaries, tag, fromSpan, toSpan, all))) {
            all.clear();
            String others = unit == Unit.HOUR
                    ? "SELECT span, first_time, last_time, whole, COALESCE(minutes, data)" + FROM_THE_SPAN_BEFORE
                            + " AND hours IS NULL"
                    : "SELECT span, first_time, last_time, whole, data" + FROM_THE_SPAN_BEFORE + " AND minutes IS NULL";
            // Both as of one moment, since they may be put together meanwhile.
            once(connection -> thin(connection, summaries, tag, fromSpan, toSpan, all)
                    && thin(connection, others, tag, fromSpan, toSpan, all));
        }
        all.sort(Comparator.comparingLong(Thin::span).thenComparingLong(Thin::first));
        return all;
    }

    /** Whether there are more, without what was asked for. */
    private static boolean thin(
            Connection connection, String sql, long tag, long fromSpan, long toSpan, List<Thin> into)
            throws SQLException {
        boolean none = false;
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            statement.setLong(1, tag);
            statement.setLong(2, tag);
            statement.setLong(3, fromSpan);
            statement.setLong(4, fromSpan);
            statement.setLong(5, toSpan);
            try (ResultSet rows = statement.executeQuery()) {
                while (rows.next()) {
                    byte[] bytes = rows.getBytes(5);
                    if (bytes == null) {
                        none = true;
                    } else {
                        into.add(new Thin(rows.getLong(1), rows.getLong(2), rows.getLong(3), rows.getInt(4), bytes));
                    }
                }
            }
        }
        return none;
    }

    /**
     * Where blocks are in pieces: spans that are over, and of those that go on the ones with many pieces.
     *
     * @param before spans before this one are over
     * @param many   so many pieces of a span that goes on
     */
    public List<Pieces> inPieces(long before, int many, int most) throws Problem {
        return ask(connection -> {
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

    /**
     * Makes of the blocks of a tag in a span as few as there are sorts of values, with their summaries, and its hours anew. What
     * cannot be read stays as it is.
     *
     * @param now ticks
     */
    public void putTogether(long tag, long span, long now) throws Problem {
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
            List<Whole> blocks = Block.columns(series).stream()
                    .map(column -> Whole.of(tag, column))
                    .toList();
            insert(connection, blocks, WHOLE);
            delete(connection, read);
            asTheyAre(connection, unread);
            hours(connection, tag, span, series.samples(), now);
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
        return Series.of(columns).samples();
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

    /** For how long values are kept of tags that are not kept for ever, by their numbers. */
    public Map<Long, KeptFor> lasting() throws Problem {
        return ask(connection -> {
            try (Statement statement = connection.createStatement();
                    ResultSet rows =
                            statement.executeQuery("SELECT tag, days, summaries FROM archive_tag WHERE days > 0")) {
                Map<Long, KeptFor> all = new HashMap<>();
                while (rows.next()) {
                    all.put(rows.getLong(1), new KeptFor(rows.getInt(2), rows.getInt(3)));
                }
                return all;
            }
        });
    }

    private record Old(long id, int values, int sort, boolean minutes, byte[] data) {}

    /**
     * Removes some of the blocks of a tag of which all is older than an instant, its hours too; how many blocks those were.
     *
     * @param before ticks
     * @param most   so many at once
     */
    public int removeBefore(long tag, long before, int most) throws Problem {
        return once(connection -> {
            List<Old> old = old(connection, tag, before, most, "");
            delete(connection, old.stream().map(Old::id).collect(Collectors.toSet()));
            HourTable.removeBefore(connection, tag, before);
            later(connection, "removed", old.stream().mapToLong(Old::values).sum());
            return old.size();
        });
    }

    /**
     * Leaves of some of the blocks of a tag of which all is older than an instant their summaries alone; how many blocks
     * those were. Texts have none and go; what is no longer than its summary stays.
     */
    public int summarizeBefore(long tag, long before, int most) throws Problem {
        return once(connection -> {
            List<Old> old = old(connection, tag, before, most, " AND whole = 1");
            long gone = 0;
            for (Old each : old) {
                gone += summarize(connection, each);
            }
            later(connection, "removed", gone);
            return old.size();
        });
    }

    private static List<Old> old(Connection connection, long tag, long before, int most, String which)
            throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(
                "SELECT id, taken, sort, minutes IS NOT NULL, data FROM archive_block WHERE tag = ? AND span < ? AND last_time < ?"
                        + which + " ORDER BY span LIMIT ? FOR UPDATE")) {
            statement.setLong(1, tag);
            statement.setLong(2, ArchiveStore.spanOf(before) + 1);
            statement.setLong(3, before);
            statement.setInt(4, most);
            try (ResultSet rows = statement.executeQuery()) {
                List<Old> all = new ArrayList<>();
                while (rows.next()) {
                    all.add(new Old(
                            rows.getLong(1), rows.getInt(2), rows.getInt(3), rows.getBoolean(4), rows.getBytes(5)));
                }
                return all;
            }
        }
    }

    /** How many values are not there any more then. */
    private static int summarize(Connection connection, Old block) throws SQLException {
        if (block.sort() == Column.Sort.TEXT.ordinal()) {
            delete(connection, Set.of(block.id()));
            return block.values();
        }
        byte[] minutes = null;
        if (!block.minutes()) {
            try {
                minutes = Summary.instead(BlockCodec.read(block.data()), block.data().length)
                        .orElse(null);
            } catch (BlockCodec.Damaged damaged) {
                minutes = null; // it stays for whoever can read it, as long as a summary would
            }
            if (minutes == null) {
                each(
                        connection,
                        "UPDATE archive_block SET whole = " + ITS_OWN_SUMMARY + " WHERE id = ?",
                        Set.of(block.id()));
                return 0;
            }
        }
        try (PreparedStatement statement = connection.prepareStatement(
                "UPDATE archive_block SET minutes = COALESCE(minutes, ?), data = '', taken = 0, whole = 3,"
                        + " bytes = LENGTH(minutes) + COALESCE(LENGTH(hours), 0) WHERE id = ?")) {
            statement.setBytes(1, minutes);
            statement.setLong(2, block.id());
            statement.executeUpdate();
        }
        return block.values();
    }

    /** What is there of each tag. */
    public Map<Long, Extent> extents() throws Problem {
        return ask(connection -> {
            try (Statement statement = connection.createStatement();
                    ResultSet rows = statement.executeQuery(
                            "SELECT kept.tag, SUM(taken), SUM(bytes), COUNT(*), MIN(first_time), MAX(last_time)"
                                    + " FROM archive_block AS kept GROUP BY kept.tag")) {
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
        return ask(connection -> {
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
