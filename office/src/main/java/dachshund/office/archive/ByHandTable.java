package dachshund.office.archive;

import dachshund.core.archive.ArchiveStore.Block;
import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.archive.ArchiveStore.Tag;
import java.sql.PreparedStatement;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Optional;
import javax.sql.DataSource;
import org.springframework.stereotype.Repository;

/** Values that somebody entered, beside what was there before, in plain SQL. */
@Repository
public class ByHandTable {

    private final OneStep step;

    ByHandTable(DataSource dataSource) {
        this.step = new OneStep(dataSource);
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
        step.once(connection -> {
            BlockTable.name(connection, List.of(tag));
            BlockTable.insert(connection, blocks);
            BlockTable.later(
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
        return step.list(
                "SELECT at, was, was_mark, is_now, why, who, noted FROM archive_by_hand WHERE tag = ? AND at >= ? AND at < ?"
                        + " ORDER BY id DESC LIMIT 10000",
                row -> new Entered(
                        row.getLong(1),
                        Optional.ofNullable(row.getString(2)),
                        Optional.ofNullable(row.getObject(3, Integer.class)),
                        Optional.ofNullable(row.getString(4)),
                        row.getString(5),
                        row.getString(6),
                        row.getObject(7, LocalDateTime.class).toInstant(ZoneOffset.UTC)),
                tag,
                from,
                to);
    }
}
