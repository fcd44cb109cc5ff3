package dachshund.office.archive;

import dachshund.core.destination.StoreProblem;
import dachshund.core.reader.Question;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableReading.Read;
import dachshund.core.reader.TableShape;
import dachshund.core.reader.TimeColumn;
import dachshund.core.row.Conversion;
import dachshund.core.work.Progress;
import de.siegmar.fastcsv.writer.CsvWriter;
import java.io.IOException;
import java.io.OutputStream;
import java.io.OutputStreamWriter;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;

/**
 * History in a table of a database: written as a file first, of the forms that {@link HistoryFile} understands, so that what is
 * reviewed is what is brought in, however the table changes meanwhile.
 */
public final class HistoryFromTable {

    private static final int ROWS_PER_STEP = 5_000;

    private HistoryFromTable() {}

    /**
     * How a table holds values.
     *
     * @param time    says when each row was
     * @param name    the column that names the tag of a row, where each value has its row; else empty
     * @param value   the column of values then
     * @param quality the column of qualities then; empty for none
     * @param tags    names of tags by the columns that hold their values, where each tag has its column
     */
    public record Mapping(TimeColumn time, String name, String value, String quality, Map<String, String> tags) {

        public Mapping {
            tags = new LinkedHashMap<>(tags);
        }

        /** @throws IllegalArgumentException with a sentence, where something is missing */
        public void check() {
            if (time.name().isEmpty()) {
                throw new IllegalArgumentException("Choose the column that says when a row was.");
            }
            if (!name.isEmpty() && value.isEmpty()) {
                throw new IllegalArgumentException("Choose the column that holds the values.");
            }
            if (name.isEmpty() && tags.isEmpty()) {
                throw new IllegalArgumentException(
                        "Choose the column that names the tag of each row, or write the names of tags beside the columns that hold their values.");
            }
            List<String> all = List.copyOf(tags.values());
            for (String tag : all) {
                if (tag.equalsIgnoreCase("time") || all.indexOf(tag) != all.lastIndexOf(tag)) {
                    throw new IllegalArgumentException(
                            "\"" + tag + "\" stands beside two columns, or is the name of the column of times.");
                }
            }
        }

        private List<String> columns() {
            List<String> columns = new ArrayList<>(List.of(time.name()));
            if (name.isEmpty()) {
                columns.addAll(tags.keySet());
            } else {
                columns.add(name);
                columns.add(value);
                if (!quality.isEmpty()) {
                    columns.add(quality);
                }
            }
            return columns;
        }

        private List<String> heading() {
            List<String> heading = new ArrayList<>(List.of("time"));
            if (name.isEmpty()) {
                heading.addAll(tags.values());
            } else {
                heading.add("tag");
                heading.add("value");
                if (!quality.isEmpty()) {
                    heading.add("quality");
                }
            }
            return heading;
        }
    }

    /**
     * Writes the file.
     *
     * @param question the table and its window; which columns is the mapping's
     * @param zone     of texts that say none
     * @return what was read; rows whose time nobody can tell are left out
     */
    public static Read write(
            TableReading reading, Question question, Mapping mapping, ZoneId zone, OutputStream to, Progress progress)
            throws StoreProblem, IOException {
        mapping.check();
        progress.step("Reading the table", 0, true);
        CsvWriter csv = CsvWriter.builder().build(new OutputStreamWriter(to, StandardCharsets.UTF_8));
        csv.writeRecord(mapping.heading());
        Lines lines = new Lines(mapping, mapping.time().reading(zone), csv, progress);
        Read read = reading.read(question.of(mapping.columns()), TableReading.WHOLE, lines);
        csv.flush();
        return new Read(lines.written, read.timeless() + lines.timeless);
    }

    private static final class Lines implements TableReading.Taker {

        private final boolean aRowAValue;
        private final Function<Object, Optional<Instant>> times;
        private final CsvWriter csv;
        private final Progress progress;
        private long rows;
        private long written;
        private long timeless;

        Lines(Mapping mapping, Function<Object, Optional<Instant>> times, CsvWriter csv, Progress progress) {
            this.aRowAValue = !mapping.name().isEmpty();
            this.times = times;
            this.csv = csv;
            this.progress = progress;
        }

        @Override
        public void columns(List<TableShape.Column> columns) {
            // The heading has the names of tags instead.
        }

        @Override
        public boolean row(List<Object> cells) {
            rows++;
            if (rows % ROWS_PER_STEP == 0) {
                progress.done(rows);
            }
            Optional<Instant> at = times.apply(cells.get(0));
            boolean nothing = aRowAValue && cells.size() == 3 && cells.get(2) == null;
            if (at.isEmpty()) {
                timeless++;
            } else if (!nothing) {
                written++;
                String[] fields = new String[cells.size()];
                fields[0] = at.get().toString();
                for (int i = 1; i < fields.length; i++) {
                    fields[i] = cells.get(i) == null ? "" : Conversion.plain(cells.get(i));
                }
                csv.writeRecord(fields);
            }
            return true;
        }
    }
}
