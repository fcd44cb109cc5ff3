package dachshund.core.archive;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.within;

import dachshund.core.aggregate.Aggregate;
import dachshund.core.aggregate.Fold;
import dachshund.core.aggregate.Folding;
import dachshund.core.aggregate.Method;
import dachshund.core.aggregate.Outline;
import dachshund.core.aggregate.Result;
import dachshund.core.aggregate.Samples;
import dachshund.core.archive.Column.Sort;
import dachshund.core.archive.Marks.Gap;
import dachshund.core.archive.Summary.Unit;
import dachshund.core.tag.Quality;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;

/** A summary says what the values say: every aggregate and the outline of a plot, whatever is between them. */
class SummaryTest {

    private static final long S = 10_000_000L;
    private static final long MINUTE = Unit.MINUTE.ticks();
    private static final long HOUR = Unit.HOUR.ticks();
    private static final long BEGIN = 425_600L * 24 * HOUR / 24; // some hour
    private static final List<Method> METHODS =
            List.of(Method.STEPPED, Method.SLOPED, new Method(true, false, 100, 100), new Method(false, false, 80, 40));

    /** Values each second or so over three hours, with stretches that are bad, uncertain, without a value, or not recorded. */
    private static Column column(Random random, Sort sort) {
        Column column = new Column(sort, 11_000);
        long time = BEGIN - random.nextInt(100) * S;
        double level = random.nextInt(100);
        int mark = 0;
        for (int left = 0; time < BEGIN + 3 * HOUR; left--) {
            if (left <= 0) {
                left = 1 + random.nextInt(1500);
                mark = switch (random.nextInt(9)) {
                    case 0 -> Marks.of(Quality.AWAY, false);
                    case 1 -> 0x40000000;
                    case 2 -> 0x80000000;
                    default -> 0;
                };
                if (random.nextInt(9) == 0) {
                    Series.put(column, time, null, Marks.of(Gap.AWAY));
                    time += 1 + random.nextInt(2_000) * S;
                }
            }
            level = random.nextInt(4) == 0 ? level : level + random.nextInt(7) - 3;
            switch (sort) {
                case NUMBER -> column.addNumber(time, random.nextInt(9) == 0 ? 0 : level / 4, mark);
                case WHOLE -> column.addWhole(time, (long) level, mark);
                case TRUTH -> column.addTruth(time, level > 50, mark);
                case TEXT -> column.addText(time, "text", mark);
            }
            time += S + (random.nextInt(20) == 0 ? random.nextInt(9_999) : 0);
        }
        return column;
    }

    private static List<Fold> folds(Samples samples, Method method, long from, long to, long step, long until) {
        List<Fold> all = new ArrayList<>();
        Folding.fold(samples, method, from, to, step, until, all::add);
        return all;
    }

    private static void same(
            Samples values, Samples summary, Method method, long from, long to, long step, long until) {
        List<Fold> whole = folds(values, method, from, to, step, until);
        List<Fold> brief = folds(summary, method, from, to, step, until);
        assertThat(brief).hasSameSizeAs(whole);
        for (int i = 0; i < whole.size(); i++) {
            for (Aggregate aggregate : Aggregate.values()) {
                Result expected = aggregate.of(whole.get(i), method);
                Result actual = aggregate.of(brief.get(i), method);
                String what = aggregate + " of interval " + i + " " + method;
                if (Double.isNaN(expected.value())) {
                    assertThat(actual.value()).as(what).isNaN();
                } else {
                    assertThat(actual.value())
                            .as(what)
                            .isCloseTo(expected.value(), within(1e-9 * Math.max(1, Math.abs(expected.value()))));
                }
                assertThat(actual.at()).as(what).isEqualTo(expected.at());
                assertThat(actual.grade()).as(what).isEqualTo(expected.grade());
                assertThat(actual.twice()).as(what).isEqualTo(expected.twice());
                assertThat(actual.goodShare()).as(what).isEqualTo(expected.goodShare());
            }
        }
        drawn(Outline.of(whole), Outline.of(brief));
    }

    private static void drawn(Samples line, Samples same) {
        assertThat(same.size()).isEqualTo(line.size());
        for (int i = 0; i < line.size(); i++) {
            assertThat(same.time(i)).isEqualTo(line.time(i));
            assertThat(Double.compare(same.value(i), line.value(i))).isZero();
            assertThat(same.grade(i)).isEqualTo(line.grade(i));
        }
    }

    @Property(tries = 60)
    void whatASummarySaysIsWhatTheValuesSay(@ForAll long seed) throws Exception {
        Random random = new Random(seed);
        Column column = column(random, Sort.values()[random.nextInt(3)]);
        Samples values = column.samples();
        for (Unit unit : Unit.values()) {
            Samples folded = unit == Unit.HOUR ? values.folded(HOUR, MINUTE) : values.folded(MINUTE);
            Samples read = Summary.of(column, unit).isPresent()
                    ? Summary.read(Summary.of(column, unit).orElseThrow(), false)
                    : folded;
            long step = unit.ticks() * (1 + random.nextInt(unit == Unit.HOUR ? 2 : 90));
            long until = random.nextBoolean() ? Long.MAX_VALUE : values.time(values.size() - 1);
            Method method = METHODS.get(random.nextInt(METHODS.size()));
            same(values, folded, method, BEGIN, BEGIN + 3 * HOUR, step, until);
            same(values, read, method, BEGIN, BEGIN + 3 * HOUR, step, until);
            if (read != folded) {
                drawn(
                        Outline.of(folds(values, method, BEGIN, BEGIN + 3 * HOUR, step, until)),
                        Outline.of(folds(
                                Summary.read(Summary.of(column, unit).orElseThrow(), true),
                                method,
                                BEGIN,
                                BEGIN + 3 * HOUR,
                                step,
                                until)));
            }
        }
    }

    @Test
    void itIsShortWhereThereAreManyGoodValuesAndNotMadeWhereItWouldSaveLittle() throws Exception {
        Column each = new Column(Sort.NUMBER, 28_800);
        for (int i = 0; i < 28_800; i++) {
            each.addNumber(BEGIN + i * S, i % 100 * 0.25, 0);
        }
        byte[] minutes = Summary.of(each, Unit.MINUTE).orElseThrow();
        byte[] hours = Summary.of(each, Unit.HOUR).orElseThrow();
        assertThat(Summary.read(minutes, false).size()).isEqualTo(960);
        assertThat(Summary.read(hours, false).size()).isEqualTo(16);
        assertThat(hours.length).isLessThan(1000);
        assertThat(Summary.is(minutes)).isTrue();
        assertThat(Summary.is(BlockCodec.write(each))).isFalse();
        Column seldom = new Column(Sort.NUMBER, 480);
        for (int i = 0; i < 480; i++) {
            seldom.addNumber(BEGIN + i * MINUTE, i, 0);
        }
        assertThat(Summary.of(seldom, Unit.MINUTE)).isEmpty();
        assertThat(Summary.of(column(new Random(1), Sort.TEXT), Unit.HOUR)).isEmpty();
        assertThat(Summary.instead(column(new Random(1), Sort.TEXT), 1000)).isEmpty();
    }

    @Test
    void anIntervalThatBeginsAmidWhatWasFoldedIsRefused() throws Exception {
        Column each = new Column(Sort.NUMBER, 600);
        for (int i = 0; i < 600; i++) {
            each.addNumber(BEGIN + i * S, i, 0);
        }
        Samples folded = each.samples().folded(MINUTE);
        assertThatThrownBy(() -> folds(folded, Method.STEPPED, BEGIN, BEGIN + HOUR, 90 * S, Long.MAX_VALUE))
                .hasMessageContaining("amid");
    }

    @Property(tries = 300)
    void oneFlippedByteIsNoticed(@ForAll long seed) {
        Random random = new Random(seed);
        Column each = new Column(Sort.NUMBER, 3600);
        for (int i = 0; i < 3600; i++) {
            each.addNumber(BEGIN + i * S, random.nextInt(50), 0);
        }
        byte[] bytes = Summary.of(each, Unit.MINUTE).orElseThrow();
        bytes[random.nextInt(bytes.length)] ^= (byte) (1 + random.nextInt(255));
        assertThatThrownBy(() -> Summary.read(bytes, random.nextBoolean())).isInstanceOf(BlockCodec.Damaged.class);
    }
}
