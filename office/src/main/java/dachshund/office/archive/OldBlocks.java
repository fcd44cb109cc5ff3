package dachshund.office.archive;

import dachshund.core.archive.ArchiveStore;
import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.archive.BlockCodec;
import dachshund.core.archive.Column;
import dachshund.core.archive.KeptFor;
import dachshund.core.archive.Summary;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import javax.sql.DataSource;
import org.springframework.stereotype.Repository;

/** What becomes of blocks whose time is over: their summaries are left, or nothing. In plain SQL. */
@Repository
public class OldBlocks {

    private final OneStep step;

    OldBlocks(DataSource dataSource) {
        this.step = new OneStep(dataSource);
    }

    /** For how long values are kept of tags that are not kept for ever, by their numbers. */
    public Map<Long, KeptFor> lasting() throws Problem {
        return step.ask(connection -> {
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
        return step.once(connection -> {
            List<Old> old = old(connection, tag, before, most, "");
            BlockTable.delete(connection, old.stream().map(Old::id).collect(Collectors.toSet()));
            HourTable.removeBefore(connection, tag, before);
            BlockTable.later(
                    connection, "removed", old.stream().mapToLong(Old::values).sum());
            return old.size();
        });
    }

    /**
     * Leaves of some of the blocks of a tag of which all is older than an instant their summaries alone; how many blocks
     * those were. Texts have none and go; what is no longer than its summary stays.
     */
    public int summarizeBefore(long tag, long before, int most) throws Problem {
        return step.once(connection -> {
            List<Old> old = old(connection, tag, before, most, " AND whole = 1");
            long gone = 0;
            for (Old each : old) {
                gone += summarize(connection, each);
            }
            BlockTable.later(connection, "removed", gone);
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
            BlockTable.delete(connection, Set.of(block.id()));
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
                BlockTable.each(
                        connection,
                        "UPDATE archive_block SET whole = " + BlockTable.ITS_OWN_SUMMARY + " WHERE id = ?",
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
}
