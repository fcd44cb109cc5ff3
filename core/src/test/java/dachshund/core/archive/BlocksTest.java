package dachshund.core.archive;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.aggregate.Samples;
import dachshund.core.archive.ArchiveStore.Block;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.Test;

/** Blocks end where their spans do, and hold no more than a database takes; nothing of a series is missing. */
class BlocksTest {

    private static final long TAG = 7;

    private static List<Block> blocks(Column... columns) throws BlockCodec.Damaged {
        Series series = Series.of(List.of(columns));
        List<Block> blocks = Block.of(TAG, series);
        List<Column> back = new ArrayList<>();
        for (Block block : blocks) {
            Column column = BlockCodec.read(block.data());
            assertThat(block.first()).isEqualTo(column.time(0));
            assertThat(block.last()).isEqualTo(column.time(column.size() - 1));
            assertThat(ArchiveStore.spanOf(block.first()))
                    .isEqualTo(block.span())
                    .isEqualTo(ArchiveStore.spanOf(block.last()));
            back.add(column);
        }
        Series again = Series.of(back);
        assertThat(again.size()).isEqualTo(series.size());
        for (int i = 0; i < series.size(); i++) {
            assertThat(again.time(i)).isEqualTo(series.time(i));
            assertThat(again.value(i)).isEqualTo(series.value(i));
        }
        return blocks;
    }

    private static Column at(long... times) {
        Column column = new Column(Column.Sort.NUMBER, times.length);
        for (int i = 0; i < times.length; i++) {
            column.addNumber(times[i], i / 4.0, 0);
        }
        return column;
    }

    @Test
    void eachSpanHasItsOwn() throws Exception {
        long span = ArchiveStore.SPAN;
        assertThat(blocks(at(0, 1, span - 1, span, 2 * span + 5, 9 * span))).hasSize(4);
        assertThat(blocks(at(-span - 1, -1, 0))).hasSize(3);
        assertThat(blocks(at(0, Long.MAX_VALUE - 1, Long.MAX_VALUE))).hasSize(2);
        assertThat(blocks(at(0, 1), at(2, 3))).hasSize(1);
    }

    /** However they were written: with few decimals, or as bits. */
    @Test
    void whatIsNoFiniteNumberIsBadWhenItWasRead() throws Exception {
        for (double other : new double[] {Double.NaN, Double.POSITIVE_INFINITY, Double.NEGATIVE_INFINITY}) {
            for (double[] values : new double[][] {{1.5, other, 2.25}, {0.1 * 3, other}, {other}, {other, 7}}) {
                Column column = new Column(Column.Sort.NUMBER, values.length);
                for (int i = 0; i < values.length; i++) {
                    column.addNumber(i, values[i], 0);
                }
                Column read = BlockCodec.read(BlockCodec.write(column));
                for (int i = 0; i < values.length; i++) {
                    assertThat(read.samples().grade(i))
                            .isEqualTo(Double.isFinite(values[i]) ? Samples.GOOD : Samples.BAD);
                }
            }
        }
        Column read = BlockCodec.read(BlockCodec.write(at(1, 2, 3)));
        read.addNumber(4, Double.NaN, 0);
        assertThat(read.samples().grade(3)).isEqualTo(Samples.BAD);
        assertThat(read.samples().grade(2)).isEqualTo(Samples.GOOD);
    }

    @Test
    void ofManyValuesThereAreSeveral() throws Exception {
        Column many = new Column(Column.Sort.WHOLE, 70_000);
        for (int i = 0; i < 70_000; i++) {
            many.addWhole(i, i, 0);
        }
        assertThat(blocks(many)).extracting(Block::values).containsExactly(65_536, 4_464);
    }

    @Test
    void ofLongTextsThereAreSeveral() throws Exception {
        Column texts = new Column(Column.Sort.TEXT, 10);
        for (int i = 0; i < 10; i++) {
            texts.addText(i, i + "x".repeat(900_000), 0);
        }
        assertThat(blocks(texts)).extracting(Block::values).containsExactly(3, 3, 3, 1);
    }
}
