package dachshund.web.review;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.RowReading.TablePage;
import dachshund.core.destination.StoreProblem;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Line;
import dachshund.core.layout.Shape;
import dachshund.core.layout.SqlType;
import dachshund.core.row.Conversion;
import dachshund.core.text.SafeCell;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.office.landed.LandedRows;
import dachshund.web.page.CsvDownload;
import dachshund.web.page.Shown;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import de.siegmar.fastcsv.writer.CsvWriter;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseBody;

/** The rows of a recorder's first table: the last ones, a trend of one column, all as CSV. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/records/{id}")
class RowsController {

    private static final int LAST = 12;
    private static final int TREND_ROWS = 720;

    private final Definitions definitions;
    private final Engine engine;
    private final LandedRows landed;
    private final Shown shown;

    /** What a trend draws: seconds since 1970, values, and why there are none. */
    public record Trend(List<Double> times, List<Double> values, String problem) {}

    RowsController(Definitions definitions, Engine engine, LandedRows landed, Shown shown) {
        this.definitions = definitions;
        this.engine = engine;
        this.landed = landed;
        this.shown = shown;
    }

    private RecorderDefinition recorder(String id) {
        return definitions.find(RecorderDefinition.class, id).orElseThrow();
    }

    @GetMapping("/last")
    String last(@PathVariable String id, Model model) {
        RecorderDefinition recorder = recorder(id);
        model.addAttribute("recorder", recorder);
        model.addAttribute("rows", List.of());
        // What came is not asked for again at once.
        model.addAttribute("refreshed", true);
        model.addAttribute(
                "held",
                Optional.ofNullable(engine.status().get(id))
                        .map(status -> status.held())
                        .orElse(0L));
        Optional<LandedRows.Opened> found = landed.of(recorder);
        if (found.isEmpty()) {
            model.addAttribute(
                    "empty",
                    definitions.live(id).isPresent() && !recorder.wheres().isEmpty()
                            ? "No row has landed yet that says where rows go."
                            : "Rows appear here once the recorder has a destination and is released.");
            return "records/recorder :: last";
        }
        try (LandedRows.Opened place = found.get()) {
            TablePage page = place.newest(LAST);
            model.addAttribute(
                    "rows",
                    page.rows().stream()
                            .map(row -> inOrder(place.layout(), page.columns(), row))
                            .toList());
            model.addAttribute(
                    "empty",
                    page.rows().isEmpty()
                            ? definitions.live(id).isPresent()
                                    ? "No row has landed yet in "
                                            + place.place().words() + "."
                                    : "Rows appear here once this recorder is released."
                            : "");
        } catch (StoreProblem problem) {
            model.addAttribute("empty", problem.getMessage());
        }
        return "records/recorder :: last";
    }

    /** Cells in the order of the layout; a column that the table does not have yet stays empty. */
    private List<String> inOrder(Layout layout, List<String> columns, List<Object> row) {
        List<String> cells = new ArrayList<>();
        for (Column column : layout.columns()) {
            int at = columns.indexOf(column.name());
            cells.add(
                    at < 0
                            ? ""
                            : column.isRowId() && row.get(at) != null
                                    ? "…" + row.get(at).toString().substring(21, 35)
                                    : shown.cell(row.get(at)));
        }
        return cells;
    }

    @GetMapping("/trend")
    @ResponseBody
    Trend trend(@PathVariable String id, @RequestParam String column, @RequestParam(defaultValue = "0") int line) {
        RecorderDefinition recorder = recorder(id);
        Optional<Column> time = recorder.layout().columns().stream()
                .filter(each -> each.type().family() == SqlType.Family.TIMESTAMP)
                .findFirst();
        Optional<Column> value = recorder.layout().columns().stream()
                .filter(each -> each.name().equals(column))
                .findFirst();
        Optional<LandedRows.Opened> found = landed.of(recorder);
        if (time.isEmpty() || value.isEmpty() || found.isEmpty()) {
            return new Trend(List.of(), List.of(), "A trend needs a time column, a number column and a destination.");
        }
        try (LandedRows.Opened place = found.get()) {
            TablePage page = place.newest(TREND_ROWS);
            int t = page.columns().indexOf(time.get().name());
            int v = page.columns().indexOf(column);
            List<Double> times = new ArrayList<>();
            List<Double> values = new ArrayList<>();
            for (int i = page.rows().size() - 1; i >= 0 && t >= 0 && v >= 0; i--) {
                List<Object> row = page.rows().get(i);
                if (row.get(t) instanceof Instant at && isOf(line, recorder.layout(), page.columns(), row)) {
                    times.add(at.toEpochMilli() / 1000.0);
                    values.add(row.get(v) instanceof Number number ? (Double) number.doubleValue() : null);
                }
            }
            return new Trend(times, values, times.isEmpty() ? "No rows yet." : "");
        } catch (StoreProblem problem) {
            return new Trend(List.of(), List.of(), problem.getMessage());
        }
    }

    /** Where each tag has its rows, a trend is that of one tag: whether the row is of the line of that number. */
    private static boolean isOf(int number, Layout layout, List<String> columns, List<Object> row) {
        if (layout.shape() != Shape.ROW_PER_TAG
                || number < 0
                || number >= layout.lines().size()) {
            return true;
        }
        Line line = layout.lines().get(number);
        return layout.columns().stream()
                .filter(column -> column.from() instanceof ColumnSource.FromLine && columns.contains(column.name()))
                .allMatch(column -> {
                    String cell = Objects.toString(row.get(columns.indexOf(column.name())), "");
                    return switch (((ColumnSource.FromLine) column.from()).fact()) {
                        case NAME -> cell.equals(line.name());
                        case EQUIPMENT -> cell.equals(line.equipment());
                        default -> true;
                    };
                });
    }

    /** All rows as CSV (RFC 4180), UTF-8 with a byte-order mark, times in UTC as in RFC 3339. */
    @GetMapping("/rows.csv")
    void csv(@PathVariable String id, HttpServletResponse response) throws IOException, StoreProblem {
        RecorderDefinition recorder = recorder(id);
        try (LandedRows.Opened place = landed.of(recorder).orElseThrow()) {
            TablePage first = place.newest(1);
            String file = place.place().table().replaceAll("[^A-Za-z0-9._-]", "_") + ".csv";
            CsvWriter csv = CsvDownload.open(response, file);
            csv.writeRecord(first.columns().stream().map(SafeCell::out).toList());
            if (!first.columns().isEmpty()) {
                place.each(cells -> csv.writeRecord(
                        cells.stream().map(RowsController::csvCell).toList()));
            }
            csv.flush();
        }
    }

    private static String csvCell(Object cell) {
        return cell == null ? "" : cell instanceof String text ? SafeCell.out(text) : Conversion.plain(cell);
    }
}
