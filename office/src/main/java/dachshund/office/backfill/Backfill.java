package dachshund.office.backfill;

import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.Place;
import dachshund.core.destination.RowReading;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.WriteMode;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Shape;
import dachshund.core.rehearse.Rehearsal;
import dachshund.core.row.Made;
import dachshund.core.row.Row;
import dachshund.core.row.RowFacts;
import dachshund.core.tag.TagRef;
import dachshund.core.when.When;
import dachshund.core.window.Span;
import dachshund.core.work.Progress;
import dachshund.engine.Engine;
import dachshund.engine.recorder.PastRows;
import dachshund.office.archive.Histories;
import dachshund.office.backfill.TableRows.Is;
import dachshund.office.definition.Definitions;
import dachshund.office.rehearse.Replay;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.springframework.stereotype.Component;

/**
 * Rows of a time that has been, made by a recorder's released design from the archive: first compared with what its table has,
 * then those that are missing are written, as new rows of its lane. Before each hour is compared, all that is on its way has its
 * fate; so it may be stopped, or die, at any moment and be begun again, and each row lands once.
 */
@Component
public class Backfill {

    private static final Duration SETTLED_WITHIN = Duration.ofSeconds(30);
    private static final int AT_ONCE = 500;
    private static final int EXAMPLES = 8;

    private final Definitions definitions;
    private final Engine engine;
    private final Histories histories;

    /** A row that is or is not there. */
    public record Example(Instant at, List<Object> made) {}

    /**
     * What would be, or was, written.
     *
     * @param columns   of the examples
     * @param missing   rows that the table does not have
     * @param equal     that it has
     * @param different of which it has another with the same record time, which is left alone
     * @param refused   that do not fit a column, with the reason of the first ones
     * @param unknown   that cannot be made, since the archive knows nothing of a tag then; how many by tag
     * @param examples  of what is missing
     * @param others    of what is different
     */
    public record Result(
            List<String> columns,
            long missing,
            long equal,
            long different,
            long refused,
            List<String> refusals,
            Map<String, Long> unknown,
            List<Example> examples,
            List<Example> others) {

        public long unknownInAll() {
            return unknown.values().stream().mapToLong(Long::longValue).sum();
        }
    }

    Backfill(Definitions definitions, Engine engine, Histories histories) {
        this.definitions = definitions;
        this.engine = engine;
        this.histories = histories;
    }

    /**
     * The places of a recorder that can be backfilled.
     *
     * @throws IllegalArgumentException with a sentence, where the recorder does not run
     */
    public List<Where> wheres(String recorder) {
        return engine.pastRows().design(recorder).wheres().stream()
                .filter(where -> engine.reading(where.destination())
                        .filter(RowReading::readsBetween)
                        .isPresent())
                .toList();
    }

    /** Says what would be written; nothing is. */
    public Result compare(String recorder, String destination, Span span, Progress progress) throws Exception {
        return new Filling(recorder, destination, span, progress, false).run();
    }

    /** Writes what is missing. */
    public Result write(String recorder, String destination, Span span, Progress progress) throws Exception {
        return new Filling(recorder, destination, span, progress, true).run();
    }

    private final class Filling implements Rehearsal.Taker {

        private final PastRows past = engine.pastRows();
        private final RecorderDefinition design;
        private final Where where;
        private final Span span;
        private final Progress progress;
        private final boolean write;
        private final RowReading reading;
        private final Plant plant = definitions.livePlant();
        private final RowFacts facts;
        private final boolean byChanges;
        /** The id of a row is drawn when it is written. */
        private final List<Column> shown;

        private final List<Row> made = new ArrayList<>();
        private long missing;
        private long equal;
        private long different;
        private long refused;
        private final List<String> refusals = new ArrayList<>();
        private final Map<String, Long> unknown = new LinkedHashMap<>();
        private final List<Example> examples = new ArrayList<>();
        private final List<Example> others = new ArrayList<>();

        Filling(String recorder, String destination, Span span, Progress progress, boolean write) {
            this.design = past.design(recorder);
            this.where = design.wheres().stream()
                    .filter(each -> each.destination().equals(destination))
                    .findFirst()
                    .orElseThrow(() -> new IllegalArgumentException("The released design does not write there."));
            this.span = span;
            this.progress = progress;
            this.write = write;
            this.reading = engine.reading(destination)
                    .filter(RowReading::readsBetween)
                    .orElseThrow(
                            () -> new IllegalArgumentException(
                                    "Only tables of a database are backfilled: of a file or a broker nobody can tell which rows it has."));
            this.facts = plant.facts(design);
            this.shown = design.layout().written().stream()
                    .filter(column -> !column.isRowId())
                    .toList();
            this.byChanges = design.whens().stream().anyMatch(when -> when.pace() == When.Pace.VALUES);
            possible();
        }

        private void possible() {
            Column time = TableRows.time(design.layout());
            boolean newRows = where.mode() instanceof WriteMode.Insert
                    || where.mode() instanceof WriteMode.InsertOrUpdate
                            && design.layout().key().contains(time.name());
            if (!newRows) {
                throw new IllegalArgumentException(
                        "Rows that change others, or go to a procedure, are not backfilled: an old one would take the place of a newer one.");
            }
            if (design.layout().shape() == Shape.ROW_PER_TAG
                    && design.layout().columns().stream().noneMatch(column -> column.from()
                            .equals(new ColumnSource.FromLine(ColumnSource.LineFact.NAME)))) {
                throw new IllegalArgumentException(
                        "No column has the name of the tag, so nobody can tell which rows are there.");
            }
            Instant now = engine.clock().now();
            if (span.to().isAfter(now)) {
                throw new IllegalArgumentException(
                        "The window goes on into the future: only what has been is backfilled.");
            }
            int days = where.upkeep().keepDays();
            if (days > 0 && span.from().isBefore(now.minus(Duration.ofDays(days)))) {
                throw new IllegalArgumentException("Rows of this recorder are removed from there after " + days
                        + (days == 1 ? " day" : " days")
                        + ": begin the window later, or let them stay longer first.");
            }
        }

        Result run() throws Exception {
            progress.step(write ? "Writing what is missing" : "Comparing", Replay.parts(span), true);
            long[] parts = {0};
            settle();
            new Replay(histories, design, plant)
                    .run(engine.recorders().identity(design.id()), span, this, (from, to) -> {
                        part(from, to);
                        progress.done(++parts[0]);
                    });
            if (write) {
                settle();
            }
            return new Result(
                    shown.stream().map(Column::name).toList(),
                    missing,
                    equal,
                    different,
                    refused,
                    refusals,
                    unknown,
                    examples,
                    others);
        }

        /** What is on its way is in the table, or it is known that it is not. */
        private void settle() {
            if (!past.settled(design.id(), where.destination(), SETTLED_WITHIN)) {
                throw new IllegalArgumentException(
                        "Rows of this recorder are held: until they have landed nobody can tell which are missing. See that its destination takes them, and begin again.");
            }
        }

        @Override
        public void row(Made each) {
            if (each instanceof Made.Whole whole) {
                made.add(whole.row());
            } else if (each instanceof Made.Refused not) {
                refused++;
                if (refusals.size() < EXAMPLES && !refusals.contains(not.reason())) {
                    refusals.add(not.reason());
                }
            }
        }

        @Override
        public void unknown(Instant at, TagRef tag) {
            String name = plant.tag(tag).map(info -> info.fullName()).orElse(tag.address());
            unknown.merge(name, 1L, Long::sum);
        }

        private void part(Instant from, Instant to) throws StoreProblem {
            Map<Place, TableRows> tables = new LinkedHashMap<>();
            List<Row> go = new ArrayList<>();
            for (Row row : made) {
                Place place = where.place().of(row, design.layout(), facts);
                TableRows table = tables.get(place);
                if (table == null) {
                    table = read(place, from, to);
                    tables.put(place, table);
                }
                Is is = table.compare(row);
                if (is == Is.EQUAL) {
                    equal++;
                } else if (is == Is.DIFFERENT) {
                    different++;
                    example(others, row);
                } else {
                    missing++;
                    example(examples, row);
                    go.add(row);
                }
            }
            made.clear();
            for (int at = 0; write && at < go.size(); at += AT_ONCE) {
                past.send(design, where.destination(), go.subList(at, Math.min(go.size(), at + AT_ONCE)));
            }
        }

        private void example(List<Example> into, Row row) {
            if (into.size() < EXAMPLES) {
                Map<String, Object> cells = TableRows.cells(design.layout(), row);
                List<Object> of = new ArrayList<>();
                shown.forEach(column -> of.add(cells.get(column.name())));
                into.add(new Example(row.recordTime(), of));
            }
        }

        private TableRows read(Place place, Instant from, Instant to) throws StoreProblem {
            TableRows table = new TableRows(design.layout(), byChanges);
            if (!place.database().isEmpty() && !reading.hasDatabase(place.database())) {
                return table;
            }
            reading.in(place.database())
                    .between(
                            place.table(),
                            design.layout(),
                            TableRows.time(design.layout()),
                            from.minus(table.near()),
                            to.plus(table.near()),
                            Integer.MAX_VALUE,
                            table::add);
            return table;
        }
    }
}
