package dachshund.core.archive;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dachshund.core.archive.BlockCodec.Damaged;
import dachshund.core.archive.Column.Sort;
import java.util.HexFormat;
import java.util.List;
import java.util.Random;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import net.jqwik.api.Tuple;
import net.jqwik.api.Tuple.Tuple3;
import org.junit.jupiter.api.Test;

class BlockCodecTest {

    private static final long BEGIN = 134_100_000_000_000_000L;
    private static final long SECOND = 10_000_000L;

    private static void same(Column is, Column was) {
        assertThat(is.sort()).isEqualTo(was.sort());
        assertThat(is.size()).isEqualTo(was.size());
        for (int i = 0; i < was.size(); i++) {
            assertThat(is.time(i)).as("time %d", i).isEqualTo(was.time(i));
            assertThat(is.quality(i)).as("quality %d", i).isEqualTo(was.quality(i));
            if (was.sort() == Sort.TEXT) {
                assertThat(is.text(i)).isEqualTo(was.text(i));
            } else if (was.sort() == Sort.NUMBER) {
                assertThat(Double.doubleToRawLongBits(is.number(i)))
                        .as("value %d", i)
                        .isEqualTo(Double.doubleToRawLongBits(was.number(i)));
            } else {
                assertThat(is.whole(i)).as("value %d", i).isEqualTo(was.whole(i));
            }
        }
    }

    private static byte[] andBack(Column column) throws Damaged {
        byte[] bytes = BlockCodec.write(column);
        same(BlockCodec.read(bytes), column);
        return bytes;
    }

    /** Numbers as sources have them, and as none should: few decimals, floats, extremes, no number at all, below zero. */
    @Provide
    Arbitrary<Double> numbers() {
        return Arbitraries.frequencyOf(
                Tuple.of(8, Arbitraries.integers().between(-5000, 5000).map(n -> n / 100.0)),
                Tuple.of(3, Arbitraries.floats().map(Float::doubleValue)),
                Tuple.of(2, Arbitraries.doubles()),
                Tuple.of(
                        1,
                        Arbitraries.of(
                                Double.NaN,
                                -0.0,
                                Double.MIN_VALUE,
                                Double.MAX_VALUE,
                                Double.NEGATIVE_INFINITY,
                                0.1 + 0.2,
                                9007199254740994.0)));
    }

    @Provide
    Arbitrary<List<Tuple3<Long, Double, Integer>>> samples() {
        Arbitrary<Long> steps = Arbitraries.frequencyOf(
                Tuple.of(5, Arbitraries.just(SECOND)),
                Tuple.of(3, Arbitraries.longs().between(0, 20_000)),
                Tuple.of(1, Arbitraries.longs().between(0, 1L << 45)));
        Arbitrary<Integer> qualities =
                Arbitraries.frequencyOf(Tuple.of(9, Arbitraries.just(0)), Tuple.of(1, Arbitraries.integers()));
        return net.jqwik.api.Combinators.combine(steps, numbers(), qualities)
                .as(Tuple::of)
                .list()
                .ofMaxSize(300);
    }

    @Property(tries = 1500)
    void everyNumberComesBackAsItWas(@ForAll("samples") List<Tuple3<Long, Double, Integer>> samples) throws Damaged {
        Column column = new Column(Sort.NUMBER, 0);
        long at = BEGIN;
        for (Tuple3<Long, Double, Integer> each : samples) {
            at += each.get1();
            column.addNumber(at, each.get2(), each.get3());
        }
        andBack(column);
    }

    @Property(tries = 500)
    void everyWholeNumberAndTextAndTruthComesBack(@ForAll List<Long> wholes, @ForAll List<String> texts)
            throws Damaged {
        Column whole = new Column(Sort.WHOLE, 4);
        wholes.forEach(each -> whole.addWhole(BEGIN, each, 0));
        andBack(whole);
        Column text = new Column(Sort.TEXT, 4);
        // What is no character by itself cannot be in UTF-8, and does not come from any source.
        texts.forEach(each -> text.addText(BEGIN, each.replaceAll("\\p{Cs}", "?"), 0));
        andBack(text);
        Column truth = new Column(Sort.TRUTH, 4);
        wholes.forEach(each -> truth.addTruth(BEGIN, each > 0, 0x808B0000));
        andBack(truth);
    }

    @Test
    void timesFrom1601ToTheLastComeBack() throws Damaged {
        Column column = new Column(Sort.WHOLE, 4);
        column.addWhole(0, Long.MIN_VALUE, 0);
        column.addWhole(0, Long.MAX_VALUE, 0);
        column.addWhole(Long.MAX_VALUE, 0, 0);
        andBack(column);
        andBack(new Column(Sort.NUMBER, 0));
    }

    /** So small are they; the measurements are 1.0, 5.7, 9.6 and 0.1 bytes a value. */
    @Test
    void aValueCostsFewBytes() throws Damaged {
        Random random = new Random(7);
        int n = 8 * 3600;
        Column regular = new Column(Sort.NUMBER, n);
        Column floats = new Column(Sort.NUMBER, n);
        Column noise = new Column(Sort.NUMBER, n);
        Column states = new Column(Sort.NUMBER, n);
        double level = 71.3;
        for (int i = 0; i < n; i++) {
            level += random.nextGaussian() * 0.05;
            long at = BEGIN + i * SECOND;
            regular.addNumber(at, Math.round(level * 100) / 100.0, 0);
            floats.addNumber(at + random.nextInt(20_000), (float) level, 0);
            noise.addNumber(at + random.nextInt(20_000), random.nextDouble(), 0);
            states.addNumber(at, i / 2000 % 3, 0);
        }
        assertThat(andBack(regular).length / (double) n).isLessThan(1.0);
        assertThat(andBack(floats).length / (double) n).isLessThan(5.7);
        assertThat(andBack(noise).length / (double) n).isLessThan(9.6);
        assertThat(andBack(states).length / (double) n).isLessThan(0.1);
    }

    @Test
    void aBadValueWithoutANumberDoesNotMakeItsNeighboursLarge() throws Damaged {
        Column column = new Column(Sort.NUMBER, 10_000);
        for (int i = 0; i < 10_000; i++) {
            column.addNumber(
                    BEGIN + i * SECOND,
                    i % 1000 == 500 ? Double.NaN : 20 + i % 10 / 10.0,
                    i % 1000 == 500 ? 0x80310000 : 0);
        }
        assertThat(andBack(column).length).isLessThan(10_000);
    }

    @Test
    void aFlippedBitIsTold() {
        Column column = new Column(Sort.NUMBER, 100);
        for (int i = 0; i < 100; i++) {
            column.addNumber(BEGIN + i * SECOND, i / 10.0, 0);
        }
        byte[] bytes = BlockCodec.write(column);
        for (int bit = 0; bit < bytes.length * 8; bit++) {
            byte[] flipped = bytes.clone();
            flipped[bit / 8] ^= (byte) (1 << bit % 8);
            assertThatThrownBy(() -> BlockCodec.read(flipped)).isInstanceOf(Damaged.class);
        }
        for (int length = 0; length < bytes.length; length++) {
            byte[] torn = java.util.Arrays.copyOf(bytes, length);
            assertThatThrownBy(() -> BlockCodec.read(torn)).isInstanceOf(Damaged.class);
        }
    }

    /** Bytes of anybody's with a checksum that fits: a sentence, never another exception or a gigabyte. */
    @Property(tries = 3000)
    void whateverTheBytesAreTheyAreReadOrRefused(@ForAll long seed) {
        Random random = new Random(seed);
        byte[] bytes = new byte[10 + random.nextInt(200)];
        random.nextBytes(bytes);
        bytes[0] = 1;
        bytes[1] = (byte) random.nextInt(5);
        bytes[4] = 0;
        bytes[5] = 0;
        java.util.zip.CRC32C checksum = new java.util.zip.CRC32C();
        checksum.update(bytes, 0, bytes.length - 4);
        java.nio.ByteBuffer.wrap(bytes).order(java.nio.ByteOrder.LITTLE_ENDIAN).putInt(bytes.length - 4, (int)
                checksum.getValue());
        try {
            BlockCodec.read(bytes);
        } catch (Damaged said) {
            assertThat(said.getMessage()).endsWith(".");
        }
    }

    /** What is written today can be read for as long as there are archives. */
    @Test
    void aBlockOfToday() throws Damaged {
        Column column = new Column(Sort.NUMBER, 4);
        column.addNumber(BEGIN, 20.5, 0);
        column.addNumber(BEGIN + SECOND, 20.75, 0);
        column.addNumber(BEGIN + 2 * SECOND, Double.NaN, 0x80310000);
        column.addNumber(BEGIN + 3 * SECOND + 1, -1, 0);
        assertThat(HexFormat.of().formatHex(BlockCodec.write(column))).isEqualTo(TODAY);
        same(BlockCodec.read(HexFormat.of().parseHex(TODAY)), column);
    }

    private static final String TODAY =
            "010004000000004061503d6bdc0180969800000000000280030000000200000001000000010000000202080000000000000d00400600807e0803000000020000000000000001000000000031800100000000000000f15c8741";
}
