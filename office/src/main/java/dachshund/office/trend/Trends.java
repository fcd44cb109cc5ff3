package dachshund.office.trend;

import dachshund.core.aggregate.Aggregate;
import dachshund.core.aggregate.Fold;
import dachshund.core.aggregate.Folding;
import dachshund.core.aggregate.Method;
import dachshund.core.aggregate.Outline;
import dachshund.core.aggregate.Samples;
import dachshund.core.aggregate.Trouble;
import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.archive.Series;
import dachshund.core.destination.StoreProblem;
import dachshund.core.query.QueryDefinition;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.Question;
import dachshund.core.reader.TableName;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.reader.TimeColumn;
import dachshund.core.row.Conversion;
import dachshund.core.tag.Quality;
import dachshund.core.time.OpcUaTime;
import dachshund.core.time.PlantClock;
import dachshund.core.trend.Curve;
import dachshund.core.trend.CurveSource;
import dachshund.core.trend.PastedCells;
import dachshund.core.window.WindowProblem;
import dachshund.engine.Engine;
import dachshund.engine.thread.Threads;
import dachshund.office.archive.Histories;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Standing;
import dachshund.office.own.DachshundSettings;
import dachshund.office.reader.Databases;
import java.io.IOException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import java.util.stream.Stream;
import org.springframework.stereotype.Component;

/** What curves look like over a time, each by itself: wherever one has its values from, the others do not wait for it. */
@Component
public class Trends {

    /** So many rows of a table or query are one curve at most; an archive has no such bound. */
    public static final int MOST_ROWS = 200_000;

    /** What lies beside these is no time of a plant, and not every form of time holds it. */
    private static final Instant FIRST = Instant.parse("1601-01-01T00:00:00Z");

    private static final Instant LAST = Instant.parse("9999-01-01T00:00:00Z");

    private final Histories histories;
    private final Databases databases;
    private final AskedQueries queries;
    private final Definitions definitions;
    private final DachshundSettings settings;
    private final PlantClock clock;

    /**
     * A curve as it is drawn and read.
     *
     * @param points   in the order of their times; a bad one breaks the line
     * @param whole    all of the time as one interval; empty where nothing can be told of it
     * @param told     how it was read, where that is worth a word
     * @param trouble  times in which its values were not good
     */
    public record Drawn(Samples points, Optional<Fold> whole, String told, List<Trouble> trouble) {}

    /** Why a curve cannot be drawn; the message is a sentence that says what to do. */
    public static final class Undrawn extends Exception {
        private static final long serialVersionUID = 1;

        Undrawn(String sentence, Throwable cause) {
            super(sentence, cause);
        }

        Undrawn(String sentence) {
            this(sentence, null);
        }

        /** What nobody foresaw: it is told, and what else is drawn does not suffer from it. */
        static Undrawn unknown(Throwable unknown) {
            Threads.report(unknown);
            return new Undrawn("It cannot be told why it is not drawn: " + Threads.words(unknown) + ".", unknown);
        }
    }

    Trends(
            Histories histories,
            Databases databases,
            AskedQueries queries,
            Definitions definitions,
            DachshundSettings settings,
            Engine engine) {
        this.histories = histories;
        this.databases = databases;
        this.queries = queries;
        this.definitions = definitions;
        this.settings = settings;
        this.clock = engine.clock();
    }

    /**
     * @param from   of the window; a curve of another day is read as much earlier as it says, and drawn here
     * @param to     exclusive
     * @param points across the plot, about
     * @param standing which design of databases and queries is meant
     */
    public Drawn drawn(Curve curve, Instant from, Instant to, int points, Standing standing) throws Undrawn {
        try {
            return draw(curve, from, to, points, standing);
        } catch (RuntimeException | Error unknown) {
            throw Undrawn.unknown(unknown);
        }
    }

    private Drawn draw(Curve curve, Instant from, Instant to, int points, Standing standing) throws Undrawn {
        Instant begin = from.minus(curve.back());
        Instant end = to.minus(curve.back());
        Method method = curve.stepped() ? Method.STEPPED : Method.SLOPED;
        if (curve.from() instanceof CurveSource.OfTag tag) {
            return moved(ofTag(tag, begin, end, points, curve.stepped()), curve);
        }
        List<String> told = new ArrayList<>();
        Samples all = samples(curve, begin, end, told, standing);
        long first = OpcUaTime.toTicks(begin);
        long last = OpcUaTime.toTicks(end);
        long until = Math.min(last, OpcUaTime.toTicks(clock.now()));
        Samples drawn = all;
        if (all.size() > 4 * points) {
            List<Fold> folds = new ArrayList<>();
            Folding.fold(
                    all, method, first, last, Math.max(1, (last - first) / points), until, Outline.PARTS, folds::add);
            drawn = Outline.of(folds);
        }
        List<Fold> whole = new ArrayList<>();
        if (last > first) {
            Folding.fold(all, method, first, last, last - first, until, whole::add);
        }
        return moved(new Drawn(drawn, whole.stream().findFirst(), String.join(" ", told), List.of()), curve);
    }

    private static Drawn moved(Drawn drawn, Curve curve) {
        if (curve.back().isZero()) {
            return drawn;
        }
        long by = curve.back().toNanos() / 100;
        Samples points = new Samples(drawn.points().size());
        for (int i = 0; i < drawn.points().size(); i++) {
            points.add(
                    drawn.points().time(i) + by,
                    drawn.points().value(i),
                    drawn.points().grade(i));
        }
        return new Drawn(
                points,
                drawn.whole(),
                drawn.told(),
                drawn.trouble().stream()
                        .map(each -> new Trouble(each.from() + by, each.to() + by, each.grade()))
                        .toList());
    }

    private Drawn ofTag(CurveSource.OfTag of, Instant from, Instant to, int points, boolean stepped) throws Undrawn {
        if (definitions.tag(of.tag()).isEmpty()) {
            throw new Undrawn("This tag is not there any more. Remove the curve, or choose another tag.");
        }
        try {
            Histories.Outlined outlined = histories.outlined(of.tag(), from, to, points, stepped);
            String told = outlined.points().size() == 0 ? "Nothing of it was kept in this time." : outlined.told();
            return new Drawn(outlined.points(), outlined.whole(), told, outlined.trouble());
        } catch (Problem away) {
            throw new Undrawn(away.getMessage(), away);
        }
    }

    /**
     * What the archive says of a curve's value at a time: its quality in words, or why there is none.
     *
     * @throws Undrawn with a sentence, where it does not answer
     */
    public String words(Curve curve, Instant at) throws Undrawn {
        if (!(curve.from() instanceof CurveSource.OfTag of)) {
            return "";
        }
        try {
            Instant then = at.minus(curve.back());
            Series series = histories.read(of.tag(), then, then.plusMillis(1)).series();
            int index = series.before(OpcUaTime.toTicks(then) + 1) - 1;
            if (index < 0) {
                return "nothing was kept of it before";
            }
            Quality quality = Histories.value(series, index).quality();
            String grade = quality.grade().name().toLowerCase(java.util.Locale.ROOT);
            return quality.words().isEmpty() ? grade : grade + ", " + quality.words();
        } catch (Problem away) {
            throw new Undrawn(away.getMessage(), away);
        }
    }

    private Samples samples(Curve curve, Instant from, Instant to, List<String> told, Standing standing)
            throws Undrawn {
        try {
            if (curve.from() instanceof CurveSource.OfTable table) {
                return ofTable(table, from, to, told, standing);
            }
            if (curve.from() instanceof CurveSource.OfQuery query) {
                return ofQuery(query, from, to, told, standing);
            }
            CurveSource.Pasted pasted = (CurveSource.Pasted) curve.from();
            PastedCells cells = pasted(pasted);
            told.add(cells.told() + (cells.left() > 0 ? "; " + cells.left() + " lines left out" : ""));
            return part(cells.points(), from, to);
        } catch (StoreProblem | QueryProblem | WindowProblem | IllegalArgumentException problem) {
            throw new Undrawn(problem.getMessage(), problem);
        }
    }

    /** @throws IllegalArgumentException with a sentence, where nothing of it can be read */
    public PastedCells pasted(CurveSource.Pasted pasted) {
        return PastedCells.of(
                pasted.cells(),
                settings.zone(),
                Stream.of(PastedCells.Order.values())
                        .filter(each -> each.name().equals(pasted.order()))
                        .findFirst());
    }

    /** Takes one value of a curve after the other; a gap or a bad one has none. */
    public interface ValueTaker {
        void take(Instant at, Double value) throws IOException;
    }

    /**
     * Every value of a curve in a time, not thinned out.
     *
     * @throws Undrawn     with a sentence, where there are more than are read at once, or none can be read
     * @throws IOException where the taker throws it
     */
    public void values(Curve curve, Instant from, Instant to, Standing standing, ValueTaker taker)
            throws Undrawn, IOException {
        Instant begin = from.minus(curve.back());
        Instant end = to.minus(curve.back());
        Samples all;
        if (curve.from() instanceof CurveSource.OfTag of) {
            try {
                long about = histories.count(of.tag(), begin, end);
                if (about > Histories.AT_ONCE) {
                    throw new Undrawn(curve.name() + " has about " + about
                            + " values in this window, and no more than " + Histories.AT_ONCE
                            + " go out at once. Take a shorter window.");
                }
                all = histories.read(of.tag(), begin, end).series().samples();
            } catch (Problem away) {
                throw new Undrawn(away.getMessage(), away);
            }
        } else {
            all = samples(curve, begin, end, new ArrayList<>(), standing);
        }
        for (int i = 0; i < all.size(); i++) {
            Instant at = OpcUaTime.toInstant(all.time(i));
            if (!at.isBefore(begin) && at.isBefore(end)) {
                taker.take(at.plus(curve.back()), all.grade(i) < Samples.BAD ? (Double) all.value(i) : null);
            }
        }
    }

    private static Samples part(Samples all, Instant from, Instant to) {
        Samples part = new Samples(all.size());
        for (int i = 0; i < all.size(); i++) {
            Instant at = OpcUaTime.toInstant(all.time(i));
            if (!at.isBefore(from) && at.isBefore(to)) {
                part.add(all.time(i), all.value(i), all.grade(i));
            }
        }
        return part;
    }

    private Samples ofTable(CurveSource.OfTable of, Instant from, Instant to, List<String> told, Standing standing)
            throws StoreProblem, Undrawn {
        TimeColumn time = new TimeColumn(of.time(), of.form());
        Points points = new Points(time.reading(queries.zone(standing, of.database())), of.value(), 0, 1);
        Question all = Question.all(new TableName(of.schema(), of.table()))
                .of(List.of(of.time(), of.value()))
                .within(time, from, to);
        TableReading.Read read = databases
                .tables(standing, of.database())
                .read(of.where().isEmpty() ? all : all.where(of.where(), of.named()), TableReading.PAGE, points);
        if (read.timeless() > 0) {
            told.add(read.timeless() + " rows are left out, since nobody can tell the time that stands there.");
        }
        return points.samples(told);
    }

    private Samples ofQuery(CurveSource.OfQuery of, Instant from, Instant to, List<String> told, Standing standing)
            throws StoreProblem, QueryProblem, WindowProblem, Undrawn {
        QueryDefinition query = queries.query(of.query(), standing);
        Points points = new Points(null, of.value(), -1, -1) {
            @Override
            public void columns(List<TableShape.Column> columns) {
                TableShape.Column timeColumn = AskedQueries.column(columns, of.time());
                find(
                        columns.indexOf(timeColumn),
                        columns.indexOf(AskedQueries.column(columns, of.value())),
                        queries.times(query, timeColumn, standing));
            }
        };
        queries.give(query, from, to, standing, MOST_ROWS + 1L, points);
        return part(points.samples(told), from, to);
    }

    /** Points of rows. */
    private static class Points implements TableReading.Taker {

        private record Point(long ticks, double value, byte grade) {}

        private final List<Point> points = new ArrayList<>();
        private final String value;
        private Function<Object, Optional<Instant>> times;
        private int timeAt;
        private int valueAt;
        private String text = "";
        private long untold;
        private String odd = "";

        Points(Function<Object, Optional<Instant>> times, String value, int timeAt, int valueAt) {
            this.times = times;
            this.value = value;
            this.timeAt = timeAt;
            this.valueAt = valueAt;
        }

        final void find(int timeIn, int valueIn, Function<Object, Optional<Instant>> reading) {
            this.timeAt = timeIn;
            this.valueAt = valueIn;
            this.times = reading;
        }

        @Override
        public void columns(List<TableShape.Column> columns) {
            // They were asked for by name.
        }

        @Override
        public boolean row(List<Object> cells) {
            Optional<Instant> at = Optional.ofNullable(cells.get(timeAt)).flatMap(times);
            Object cell = cells.get(valueAt);
            if (at.filter(Points::isPlotted).isEmpty()) {
                untold++;
                odd = at.isPresent()
                        ? at.get().toString()
                        : cells.get(timeAt) == null ? "NULL" : Conversion.plain(cells.get(timeAt));
            } else {
                long ticks = OpcUaTime.toTicks(at.get());
                if (cell instanceof Number number) {
                    points.add(new Point(ticks, number.doubleValue(), Samples.GOOD));
                } else if (cell instanceof Boolean yes) {
                    points.add(new Point(ticks, yes ? 1 : 0, Samples.GOOD));
                } else if (cell == null) {
                    points.add(new Point(ticks, Double.NaN, Samples.BAD));
                } else {
                    text = cell.toString();
                }
            }
            return points.size() <= MOST_ROWS;
        }

        private static boolean isPlotted(Instant at) {
            return at.isAfter(FIRST) && at.isBefore(LAST);
        }

        final Samples samples(List<String> told) throws Undrawn {
            if (points.stream().noneMatch(point -> point.grade() == Samples.GOOD) && !text.isEmpty()) {
                throw new Undrawn(
                        "The column " + value + " holds texts such as \"" + text
                                + "\", and a trend draws numbers. Choose another column, or compute a number in a saved query.");
            }
            if (points.size() > MOST_ROWS) {
                throw new Undrawn("These are more than " + MOST_ROWS
                        + " rows. Take a shorter window, or group them in a saved query.");
            }
            if (untold > 0) {
                told.add(untold + (untold == 1 ? " row is" : " rows are")
                        + " left out: what stands there is no time of a plant, such as " + odd
                        + ". Numbers are seconds since 1970; let the query divide milliseconds by 1000.");
            }
            if (!text.isEmpty()) {
                told.add("Texts such as \"" + text + "\" are left out.");
            }
            points.sort(Comparator.comparingLong(Point::ticks));
            Samples samples = new Samples(points.size());
            points.forEach(point -> samples.add(point.ticks(), point.value(), point.grade()));
            return samples;
        }
    }

    /** Mean over time of what was drawn; NaN where it has none. */
    public static double mean(Fold whole, boolean stepped) {
        return Aggregate.TIME_AVERAGE
                .of(whole, stepped ? Method.STEPPED : Method.SLOPED)
                .value();
    }

    /** Area under what was drawn, in its unit times hours; NaN where it has none. */
    public static double integral(Fold whole, boolean stepped) {
        return Aggregate.TOTAL
                        .of(whole, stepped ? Method.STEPPED : Method.SLOPED)
                        .value()
                / Duration.ofHours(1).toSeconds();
    }
}
