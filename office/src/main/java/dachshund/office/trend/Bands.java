package dachshund.office.trend;

import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.archive.Series;
import dachshund.core.destination.StoreProblem;
import dachshund.core.query.QueryDefinition;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.row.Conversion;
import dachshund.core.tag.TagValue;
import dachshund.core.time.OpcUaTime;
import dachshund.core.trend.Band;
import dachshund.core.trend.BandSource;
import dachshund.core.trend.Stretch;
import dachshund.core.trend.Stretch.Change;
import dachshund.core.window.Context;
import dachshund.core.window.WindowProblem;
import dachshund.office.archive.Histories;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Standing;
import dachshund.office.trend.Trends.Undrawn;
import dachshund.office.window.Windows;
import java.time.Instant;
import java.time.LocalDate;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import org.springframework.stereotype.Component;

/** What went on in the window of a trend, each band by itself. */
@Component
public class Bands {

    /** More of them beside each other are lines, and no name fits between. */
    public static final int MOST = 300;

    private static final int LONGEST_NAME = 120;
    /** As PostgreSQL writes the end of what has none (its documentation, 8.5 Date/Time Types). */
    private static final String ENDLESS = "infinity";

    /**
     * A band over a time.
     *
     * @param stretches in the order of their beginnings, cut to the time
     * @param told      what of it is not there, in a sentence; empty where nothing is missing
     */
    public record Drawn(List<Stretch> stretches, String told) {}

    private final Histories histories;
    private final Definitions definitions;
    private final AskedQueries queries;
    private final Windows windows;

    Bands(Histories histories, Definitions definitions, AskedQueries queries, Windows windows) {
        this.histories = histories;
        this.definitions = definitions;
        this.queries = queries;
        this.windows = windows;
    }

    /**
     * @param to       exclusive
     * @param standing which design of queries is meant
     * @throws Undrawn with a sentence, where there are too many or none can be told
     */
    public Drawn of(Band band, Instant from, Instant to, Standing standing) throws Undrawn {
        try {
            return told(band, from, to, standing);
        } catch (RuntimeException | Error unknown) {
            throw Undrawn.unknown(unknown);
        }
    }

    private Drawn told(Band band, Instant from, Instant to, Standing standing) throws Undrawn {
        Drawn drawn;
        if (band.from() instanceof BandSource.OfShifts) {
            drawn = new Drawn(shifts(from, to), "");
        } else if (band.from() instanceof BandSource.OfTag of) {
            drawn = new Drawn(ofTag(of, from, to), "");
        } else {
            drawn = ofQuery((BandSource.OfQuery) band.from(), from, to, standing);
        }
        if (drawn.stretches().size() > MOST) {
            throw tooMany();
        }
        return drawn;
    }

    private static Undrawn tooMany() {
        return new Undrawn("These are more than " + MOST + " stretches. Look closer, and they are drawn.");
    }

    private List<Stretch> shifts(Instant from, Instant to) throws Undrawn {
        Context here = windows.here();
        LocalDate first = LocalDate.ofInstant(from, here.zone()).minusDays(1);
        LocalDate last = LocalDate.ofInstant(to, here.zone());
        if (ChronoUnit.DAYS.between(first, last) > MOST) {
            throw tooMany();
        }
        return here.calendar().starting(first, last, here.zone()).stream()
                .map(worked -> new Stretch(worked.from(), worked.to(), worked.shift()))
                .flatMap(each -> cut(each, from, to).stream())
                .toList();
    }

    private static Optional<Stretch> cut(Stretch stretch, Instant from, Instant to) {
        Instant begin = stretch.from().isBefore(from) ? from : stretch.from();
        Instant end = stretch.to().isAfter(to) ? to : stretch.to();
        return begin.isBefore(end) ? Optional.of(new Stretch(begin, end, stretch.name())) : Optional.empty();
    }

    private List<Stretch> ofTag(BandSource.OfTag of, Instant from, Instant to) throws Undrawn {
        if (definitions.tag(of.tag()).isEmpty()) {
            throw new Undrawn("This tag is not there any more. Take the band out, or choose another tag.");
        }
        try {
            long about = histories.count(of.tag(), from, to);
            if (about > Histories.AT_ONCE) {
                throw new Undrawn("The tag has about " + about + " values in this window, and no more than "
                        + Histories.AT_ONCE + " are looked through. Look closer.");
            }
            Series series = histories.read(of.tag(), from, to).series();
            List<Change> changes = new ArrayList<>();
            long end = OpcUaTime.toTicks(to);
            for (int i = Math.max(0, series.before(OpcUaTime.toTicks(from) + 1) - 1);
                    i < series.size() && series.time(i) < end;
                    i++) {
                TagValue value = Histories.value(series, i);
                Optional<String> name = value.quality().isBad()
                        ? Optional.empty()
                        : value.value().map(Bands::name);
                if (changes.isEmpty() || !changes.get(changes.size() - 1).name().equals(name)) {
                    changes.add(new Change(OpcUaTime.toInstant(series.time(i)), name));
                }
            }
            Instant now = windows.here().now();
            return Stretch.of(changes, from, to.isAfter(now) ? now : to);
        } catch (Problem away) {
            throw new Undrawn(away.getMessage(), away);
        }
    }

    private static String name(Object value) {
        if (value instanceof Boolean truth) {
            return truth ? "yes" : "no";
        }
        String name = Conversion.plain(value).strip();
        return name.length() > LONGEST_NAME ? name.substring(0, LONGEST_NAME) + "…" : name;
    }

    private Drawn ofQuery(BandSource.OfQuery of, Instant from, Instant to, Standing standing) throws Undrawn {
        QueryDefinition query = queries.query(of.query(), standing);
        Rows rows = new Rows(query, of, from, to, standing);
        try {
            queries.give(query, from, to, standing, Trends.MOST_ROWS + 1L, rows);
        } catch (StoreProblem | QueryProblem | WindowProblem | IllegalArgumentException problem) {
            throw new Undrawn(problem.getMessage(), problem);
        }
        if (rows.seen > Trends.MOST_ROWS) {
            throw new Undrawn("The query gives more than " + Trends.MOST_ROWS
                    + " rows. Let it give only those of the window, by :from and :to.");
        }
        rows.found.sort(Comparator.comparing(Stretch::from));
        return new Drawn(
                rows.found,
                rows.left == 0
                        ? ""
                        : rows.left + (rows.left == 1 ? " row is" : " rows are")
                                + " left out: without a name, a beginning, or an end behind it.");
    }

    /** Rows of a query as stretches. */
    private final class Rows implements TableReading.Taker {

        private final QueryDefinition query;
        private final BandSource.OfQuery of;
        private final Instant from;
        private final Instant to;
        private final Standing standing;
        private final List<Stretch> found = new ArrayList<>();
        private long seen;
        private long left;
        private int begins;
        private int ends;
        private int called;
        private Function<Object, Optional<Instant>> begin;
        private Function<Object, Optional<Instant>> end;

        private Rows(QueryDefinition query, BandSource.OfQuery of, Instant from, Instant to, Standing standing) {
            this.query = query;
            this.of = of;
            this.from = from;
            this.to = to;
            this.standing = standing;
        }

        @Override
        public void columns(List<TableShape.Column> columns) {
            TableShape.Column beginColumn = AskedQueries.column(columns, of.begins());
            TableShape.Column endColumn = AskedQueries.column(columns, of.ends());
            begins = columns.indexOf(beginColumn);
            ends = columns.indexOf(endColumn);
            called = columns.indexOf(AskedQueries.column(columns, of.called()));
            begin = queries.times(query, beginColumn, standing);
            end = queries.times(query, endColumn, standing);
        }

        @Override
        public boolean row(List<Object> cells) {
            seen++;
            Optional<Instant> first = Optional.ofNullable(cells.get(begins)).flatMap(begin);
            // One that has not ended goes on.
            boolean open = cells.get(ends) == null || ENDLESS.equals(cells.get(ends));
            Optional<Instant> last = open ? Optional.of(Instant.MAX) : end.apply(cells.get(ends));
            if (cells.get(called) == null
                    || first.isEmpty()
                    || last.isEmpty()
                    || !first.get().isBefore(last.get())) {
                left++;
            } else {
                cut(new Stretch(first.get(), last.get(), name(cells.get(called))), from, to)
                        .ifPresent(found::add);
            }
            return found.size() <= MOST;
        }
    }
}
