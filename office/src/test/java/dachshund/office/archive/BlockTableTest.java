package dachshund.office.archive;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dachshund.core.archive.ArchiveStore;
import dachshund.core.archive.ArchiveStore.Block;
import dachshund.core.archive.ArchiveStore.Counts;
import dachshund.core.archive.ArchiveStore.Lane;
import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.archive.ArchiveStore.Tag;
import dachshund.core.archive.BlockCodec;
import dachshund.core.archive.Column;
import dachshund.core.archive.Column.Sort;
import dachshund.core.archive.KeptFor;
import dachshund.core.archive.Marks;
import dachshund.core.archive.Marks.Gap;
import dachshund.core.archive.Series;
import dachshund.core.archive.TagKey;
import dachshund.core.tag.TagRef;
import dachshund.core.time.OpcUaTime;
import dachshund.office.archive.BlockTable.Kept;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import java.util.stream.IntStream;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.springframework.jdbc.core.simple.JdbcClient;

/** Blocks on a real MariaDB: stored in one step, put together, removed; what is there beside what a client of its own counts. */
class BlockTableTest {

    private static final TagRef A = new TagRef("5ca1ab1e", "a");
    private static final long KEY = TagKey.of(A);
    private static final long T0 = OpcUaTime.toTicks(Instant.parse("2026-11-24T00:00:00Z"));
    private static final long SECOND = 10_000_000;

    private static final JdbcClient JDBC = ArchiveBed.JDBC;

    private final BlockTable table = new BlockTable(ArchiveBed.POOL);
    private final OldBlocks old = new OldBlocks(ArchiveBed.POOL);

    @BeforeEach
    void empty() {
        ArchiveBed.empty();
    }

    private static Column numbers(long from, int count, double value) {
        Column column = new Column(Sort.NUMBER, count);
        for (int i = 0; i < count; i++) {
            column.addNumber(from + i * SECOND, value + i, 0);
        }
        return column;
    }

    private void store(Column column) throws Problem {
        table.store(
                Block.of(KEY, Series.of(List.of(column))),
                List.of(new Lane("j", "r", 1, 7, T0, new Counts(column.size(), column.size(), 0, 0, 0))),
                List.of(new Tag(KEY, A, "A", new KeptFor(30, 0))));
    }

    private Series all() throws Problem {
        List<Column> columns = new ArrayList<>();
        for (Kept each : table.blocks(KEY, Long.MIN_VALUE, Long.MAX_VALUE)) {
            try {
                columns.add(BlockCodec.read(each.data()));
            } catch (BlockCodec.Damaged damaged) {
                // counted by whoever reads for people
            }
        }
        return Series.of(columns);
    }

    private static long count(String what) {
        return JDBC.sql("SELECT " + what).query(Long.class).single();
    }

    @Test
    void blocksAndHowFarTheirLanesAreAreOneStep() throws Problem {
        store(numbers(T0, 100, 1));
        assertThat(table.lanes()).singleElement().satisfies(lane -> {
            assertThat(lane.nth()).isEqualTo(1);
            assertThat(lane.run()).isEqualTo(7);
            assertThat(lane.counts()).isEqualTo(new Counts(100, 100, 0, 0, 0));
        });
        // The lane is refused (its name is too long), so the blocks are not there either.
        assertThatThrownBy(() -> table.store(
                        Block.of(KEY, Series.of(List.of(numbers(T0 + 1000 * SECOND, 5, 1)))),
                        List.of(new Lane("j", "r".repeat(100), 1, 7, T0, Counts.NONE)),
                        List.of()))
                .isInstanceOf(Problem.class)
                .hasMessageContaining("Our own database");
        assertThat(all().size()).isEqualTo(100);
        assertThat(count("SUM(taken) FROM archive_block")).isEqualTo(100);
    }

    @Test
    void manyBlocksAndLargeOnesGoInOneStep() throws Problem {
        List<Block> blocks = new ArrayList<>();
        Column text = new Column(Sort.TEXT, 300);
        for (int i = 0; i < 300; i++) {
            text.addText(T0 + i, i + "x".repeat(32_000), 0);
        }
        blocks.addAll(Block.of(KEY, Series.of(List.of(text))));
        for (int tag = 0; tag < 2000; tag++) {
            blocks.addAll(Block.of(tag, Series.of(List.of(numbers(T0, 60, tag)))));
        }
        table.store(blocks, List.of(), List.of());
        assertThat(count("COUNT(DISTINCT tag) FROM archive_block")).isEqualTo(2001);
        assertThat(all().value(299).orElseThrow().toString()).startsWith("299xxx");
    }

    /** Pieces that overlap, late ones, two at one instant, several sorts and gaps: the same values before and after. */
    @Test
    void putTogetherTheValuesAreTheSameAndWhatGaveWayIsCounted() throws Problem {
        Random random = new Random(5);
        TreeMap<Long, Object> wanted = new TreeMap<>();
        long stored = 0;
        for (int piece = 0; piece < 40; piece++) {
            Sort sort = Sort.values()[random.nextInt(4)];
            Column column = new Column(sort, 50);
            long at = T0 + random.nextInt(2000) * SECOND;
            for (int i = 0; i < 30; i++) {
                at += (1 + random.nextInt(3)) * SECOND;
                Object value =
                        switch (sort) {
                            case NUMBER -> random.nextGaussian();
                            case WHOLE -> random.nextLong();
                            case TRUTH -> random.nextBoolean();
                            case TEXT -> "t" + random.nextInt(9);
                        };
                boolean gap = random.nextInt(10) == 0;
                Series.put(column, at, gap ? null : value, gap ? Marks.of(Gap.AWAY) : 0);
                wanted.put(at, gap ? "gap" : value);
                stored += gap ? 0 : 1;
            }
            store(column);
        }
        Map<Long, Object> before = words(all());
        assertThat(before).isEqualTo(wanted);
        assertThat(table.inPieces(ArchiveStore.spanOf(T0), 1000, 10)).isEmpty();
        assertThat(table.inPieces(ArchiveStore.spanOf(T0) + 1, 1000, 10)).hasSize(1);
        assertThat(table.inPieces(ArchiveStore.spanOf(T0), 40, 10)).hasSize(1);
        table.putTogether(KEY, ArchiveStore.spanOf(T0), Long.MAX_VALUE);
        assertThat(words(all())).isEqualTo(wanted);
        assertThat(count("COUNT(*) FROM archive_block")).isEqualTo(4);
        assertThat(table.inPieces(ArchiveStore.spanOf(T0) + 1, 1, 10)).isEmpty();
        long is = count("SUM(taken) FROM archive_block");
        assertThat(is)
                .isEqualTo(wanted.values().stream()
                        .filter(each -> !each.equals("gap"))
                        .count());
        assertThat(table.later().getOrDefault("replaced", 0L)).isEqualTo(stored - is);
        // What comes late is a piece again, and put together again.
        store(numbers(T0 + 5, 10, 3));
        table.putTogether(KEY, ArchiveStore.spanOf(T0), Long.MAX_VALUE);
        assertThat(all().size()).isEqualTo(wanted.size() + 10);
    }

    private static Map<Long, Object> words(Series series) {
        TreeMap<Long, Object> all = new TreeMap<>();
        IntStream.range(0, series.size())
                .forEach(i ->
                        all.put(series.time(i), series.value(i).orElse(Marks.isGap(series.mark(i)) ? "gap" : "none")));
        return all;
    }

    @Test
    void aValueThatTakesThePlaceOfAnotherStaysInItWhenTheyArePutTogether() throws Problem {
        store(numbers(T0, 10, 1));
        table.putTogether(KEY, ArchiveStore.spanOf(T0), Long.MAX_VALUE);
        store(numbers(T0 + 5 * SECOND, 1, 77));
        assertThat(words(all())).containsEntry(T0 + 5 * SECOND, 77.0).hasSize(10);
        table.putTogether(KEY, ArchiveStore.spanOf(T0), Long.MAX_VALUE);
        assertThat(words(all())).containsEntry(T0 + 5 * SECOND, 77.0).hasSize(10);
        assertThat(table.later()).isEqualTo(Map.of("replaced", 1L));
    }

    @Test
    void aBlockThatWasAlteredStaysAsItIsAndTheOthersArePutTogether() throws Problem {
        store(numbers(T0, 10, 1));
        store(numbers(T0 + 100 * SECOND, 10, 1));
        store(numbers(T0 + 200 * SECOND, 10, 1));
        JDBC.sql("UPDATE archive_block SET data = INSERT(data, 12, 1, CHAR(255)) ORDER BY id LIMIT 1")
                .update();
        table.putTogether(KEY, ArchiveStore.spanOf(T0), Long.MAX_VALUE);
        assertThat(all().size()).isEqualTo(20);
        assertThat(count("COUNT(*) FROM archive_block")).isEqualTo(2);
        assertThat(table.later()).isEmpty();
        assertThat(table.inPieces(Long.MAX_VALUE, 1, 10)).isEmpty();
    }

    @Test
    void whatIsOlderThanItIsKeptGoesInSmallStepsAndIsCounted() throws Problem {
        for (int day = 0; day < 10; day++) {
            store(numbers(T0 + day * 86_400L * SECOND, 100, day));
        }
        assertThat(old.lasting()).containsExactly(Map.entry(KEY, new KeptFor(30, 0)));
        long before = T0 + 4 * 86_400L * SECOND + 50 * SECOND;
        assertThat(old.removeBefore(KEY, before, 3)).isEqualTo(3);
        assertThat(old.removeBefore(KEY, before, 3)).isEqualTo(1);
        // The block in which the instant lies stays whole.
        assertThat(all().size()).isEqualTo(600);
        assertThat(table.later()).isEqualTo(Map.of("removed", 400L));
        assertThat(table.extents().get(KEY).values()).isEqualTo(600);
        assertThat(table.extents().get(KEY).first()).isEqualTo(T0 + 4 * 86_400L * SECOND);
        assertThat(table.spanBefore(KEY, ArchiveStore.spanOf(T0 + 7 * 86_400L * SECOND)))
                .contains(ArchiveStore.spanOf(T0 + 6 * 86_400L * SECOND));
        assertThat(table.spanBefore(KEY, ArchiveStore.spanOf(T0))).isEmpty();
    }

    @Test
    void aTagOfTextsHasNoHours() throws Problem {
        Column texts = new Column(Sort.TEXT, 2);
        texts.addText(T0, "L1", 0);
        texts.addText(T0 + SECOND, "L2", 0);
        store(texts);
        table.putTogether(KEY, ArchiveStore.spanOf(T0), Long.MAX_VALUE);
        assertThat(count("COUNT(*) FROM archive_hour")).isZero();
        assertThat(all().size()).isEqualTo(2);
    }

    @Test
    void aTagThatIsRenamedHasItsNewName() throws Problem {
        store(numbers(T0, 1, 1));
        table.store(List.of(), List.of(), List.of(new Tag(KEY, A, "Other", KeptFor.EVER)));
        assertThat(JDBC.sql("SELECT CONCAT(name, days) FROM archive_tag")
                        .query(String.class)
                        .list())
                .containsExactly("Other0");
    }
}
