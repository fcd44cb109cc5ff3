package dachshund.bench;

import dachshund.core.aggregate.Aggregate;
import dachshund.core.aggregate.Folding;
import dachshund.core.aggregate.Method;
import dachshund.core.aggregate.Samples;
import dachshund.core.archive.BlockCodec;
import dachshund.core.archive.BlockCodec.Damaged;
import dachshund.core.archive.Column;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Random;

/**
 * Time-weighted averages of OPC 10000-13 over 90 million values that lie in blocks of eight hours at one a second, in memory,
 * against decoding the same blocks alone. Four sorts of values by turns: two decimals, floats at jittered times, full noise,
 * states. Both sides alternate in slices; medians are reported.
 */
final class AggregateBench implements Bench.Benchmark {

    private static final long SECOND = 10_000_000L;
    private static final int BLOCK = 8 * 3600;
    private static final int BLOCKS = 208;
    private static final int SLICES = 15;
    private static final int WARM_UP = 3;
    private static final long MINUTE = 60 * SECOND;
    private static final long HOUR = 60 * MINUTE;
    private static final List<String> SORTS = List.of("two decimals", "floats, jittered", "full noise", "states");

    @Override
    public void run() throws Damaged {
        Machine machine = new Machine();
        List<List<byte[]>> sorts = new ArrayList<>();
        Random random = new Random(1);
        for (int sort = 0; sort < SORTS.size(); sort++) {
            List<byte[]> blocks = new ArrayList<>();
            long bytes = 0;
            long from = System.nanoTime();
            for (int i = 0; i < BLOCKS / 4; i++) {
                byte[] block = BlockCodec.write(column(sort, i, random));
                blocks.add(block);
                bytes += block.length;
            }
            sorts.add(blocks);
            System.out.printf(
                    Locale.ROOT,
                    "%-18s %.2f bytes a value (made and encoded in %.0f ns a value)%n",
                    SORTS.get(sort),
                    (double) bytes / blocks.size() / BLOCK,
                    (double) (System.nanoTime() - from) / blocks.size() / BLOCK);
        }
        long values = (long) BLOCKS * BLOCK * SLICES;
        System.out.printf(
                Locale.ROOT,
                "%naggregate: %,d values each side in %d slices, blocks of %,d; averages by the minute and by the hour%n%n",
                values,
                SLICES,
                BLOCK);
        double[] bare = new double[SLICES];
        double[] minutes = new double[SLICES];
        double[] hours = new double[SLICES];
        double sum = 0;
        for (int slice = -WARM_UP; slice < SLICES; slice++) {
            for (int turn = 0; turn < 3; turn++) {
                int side = Math.floorMod(slice + turn, 3);
                long from = System.nanoTime();
                for (List<byte[]> blocks : sorts) {
                    for (byte[] block : blocks) {
                        Column column = BlockCodec.read(block);
                        sum += side == 0
                                ? column.number(column.size() - 1)
                                : averages(column, side == 1 ? MINUTE : HOUR);
                    }
                }
                double nanos = (double) (System.nanoTime() - from) / BLOCKS / BLOCK;
                if (slice >= 0) {
                    (side == 0 ? bare : side == 1 ? minutes : hours)[slice] = nanos;
                }
            }
        }
        double alone = Machine.median(bare);
        double byMinute = Machine.median(minutes);
        double byHour = Machine.median(hours);
        System.out.printf(
                Locale.ROOT, "decoding alone       %6.1f ns a value, %,.0f million a second%n", alone, 1000 / alone);
        System.out.printf(
                Locale.ROOT,
                "averages by minute   %6.1f ns a value, %,.0f million a second%n",
                byMinute,
                1000 / byMinute);
        System.out.printf(
                Locale.ROOT, "averages by hour     %6.1f ns a value, %,.0f million a second%n", byHour, 1000 / byHour);
        System.out.printf(Locale.ROOT, "(of no meaning: %.3f; steal %.1f %%)%n", sum, machine.stealPercent());
        System.out.printf(
                Locale.ROOT,
                "{\"bench\":\"aggregate\",\"ratio\":%.3f,\"ratio_hours\":%.3f,\"decode_ns\":%.2f,\"minutes_ns\":%.2f,\"hours_ns\":%.2f,\"values\":%d,\"steal_percent\":%.1f}%n",
                alone / byMinute,
                alone / byHour,
                alone,
                byMinute,
                byHour,
                values,
                machine.stealPercent());
    }

    private static double averages(Column column, long step) {
        Samples samples = column.samples();
        long from = column.time(0) / step * step;
        double[] sum = {0};
        Folding.fold(
                samples,
                Method.SLOPED,
                from,
                column.time(column.size() - 1),
                step,
                Long.MAX_VALUE,
                fold -> sum[0] += Aggregate.TIME_AVERAGE.of(fold, Method.SLOPED).value());
        return sum[0];
    }

    private static Column column(int sort, int block, Random random) {
        long begin = dachshund.core.time.OpcUaTime.toTicks(Instant.parse("2026-11-20T00:00:00Z"))
                + (long) block * BLOCK * SECOND;
        Column column = new Column(Column.Sort.NUMBER, BLOCK);
        double level = 70;
        for (int i = 0; i < BLOCK; i++) {
            level += random.nextGaussian() * 0.05;
            long at = begin + i * SECOND;
            switch (sort) {
                case 0 -> column.addNumber(at, Math.round(level * 100) / 100.0, 0);
                case 1 -> column.addNumber(at + random.nextInt(20_000), (float) level, 0);
                case 2 -> column.addNumber(at + random.nextInt(20_000), random.nextDouble(), 0);
                default -> column.addNumber(at, i / 2000 % 3, 0);
            }
        }
        return column;
    }
}
