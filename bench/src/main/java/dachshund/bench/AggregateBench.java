package dachshund.bench;

import dachshund.core.aggregate.Aggregate;
import dachshund.core.aggregate.Folding;
import dachshund.core.aggregate.Method;
import dachshund.core.aggregate.Samples;
import dachshund.core.archive.BlockCodec;
import dachshund.core.archive.BlockCodec.Damaged;
import dachshund.core.archive.Column;
import dachshund.core.archive.Summary;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Random;

/**
 * Time-weighted averages of OPC 10000-13 over 90 million values that lie in blocks of eight hours at one a second, in memory,
 * against decoding the same blocks alone: from every value, and, as whole minutes are read, from the blocks' summaries, which
 * give the same. Four sorts of values by turns: two decimals, floats at jittered times, full noise, states. All sides alternate
 * in slices; medians are reported.
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
        List<List<byte[]>> summaries = new ArrayList<>();
        Random random = new Random(1);
        for (int sort = 0; sort < SORTS.size(); sort++) {
            List<byte[]> blocks = new ArrayList<>();
            List<byte[]> brief = new ArrayList<>();
            long bytes = 0;
            long from = System.nanoTime();
            for (int i = 0; i < BLOCKS / 4; i++) {
                Column column = column(sort, i, random);
                byte[] block = BlockCodec.write(column);
                blocks.add(block);
                brief.add(Summary.of(column, Summary.Unit.MINUTE).orElse(block));
                bytes += block.length;
            }
            sorts.add(blocks);
            summaries.add(brief);
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
        double[] summed = new double[SLICES];
        double[][] all = {bare, minutes, hours, summed};
        double[] sum = new double[all.length];
        for (int slice = -WARM_UP; slice < SLICES; slice++) {
            for (int turn = 0; turn < all.length; turn++) {
                int side = Math.floorMod(slice + turn, all.length);
                long from = System.nanoTime();
                for (List<byte[]> blocks : side == 3 ? summaries : sorts) {
                    for (byte[] block : blocks) {
                        sum[side] +=
                                side == 0 ? lastOf(BlockCodec.read(block)) : averages(block, side == 2 ? HOUR : MINUTE);
                    }
                }
                double nanos = (double) (System.nanoTime() - from) / BLOCKS / BLOCK;
                if (slice >= 0) {
                    all[side][slice] = nanos;
                }
            }
        }
        if (Math.abs(sum[1] - sum[3]) > 1e-9 * Math.abs(sum[1])) {
            throw new IllegalStateException("Averages of summaries are others: " + sum[3] + ", not " + sum[1]);
        }
        double alone = Machine.median(bare);
        double byMinute = Machine.median(minutes);
        double byHour = Machine.median(hours);
        double bySummary = Machine.median(summed);
        System.out.printf(
                Locale.ROOT, "decoding alone       %6.1f ns a value, %,.0f million a second%n", alone, 1000 / alone);
        System.out.printf(
                Locale.ROOT,
                "averages by minute   %6.1f ns a value, %,.0f million a second%n",
                byMinute,
                1000 / byMinute);
        System.out.printf(
                Locale.ROOT, "averages by hour     %6.1f ns a value, %,.0f million a second%n", byHour, 1000 / byHour);
        System.out.printf(
                Locale.ROOT,
                "by minute, summaries %6.1f ns a value, %,.0f million a second%n",
                bySummary,
                1000 / bySummary);
        System.out.printf(Locale.ROOT, "(of no meaning: %.3f; steal %.1f %%)%n", sum[0], machine.stealPercent());
        System.out.printf(
                Locale.ROOT,
                "{\"bench\":\"aggregate\",\"ratio\":%.3f,\"ratio_hours\":%.3f,\"ratio_summaries\":%.3f,\"decode_ns\":%.2f,\"minutes_ns\":%.2f,\"hours_ns\":%.2f,\"values\":%d,\"steal_percent\":%.1f}%n",
                alone / byMinute,
                alone / byHour,
                alone / bySummary,
                alone,
                byMinute,
                byHour,
                values,
                machine.stealPercent());
    }

    private static double lastOf(Column column) {
        return column.number(column.size() - 1);
    }

    private static double averages(byte[] block, long step) throws Damaged {
        Samples samples = Summary.is(block)
                ? Summary.read(block, false)
                : BlockCodec.read(block).samples();
        long from = samples.time(0) / step * step;
        double[] sum = {0};
        Folding.fold(
                samples,
                Method.SLOPED,
                from,
                (samples.time(samples.size() - 1) / step + 1) * step,
                step,
                Long.MAX_VALUE,
                Aggregate.TIME_AVERAGE.parts(),
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
