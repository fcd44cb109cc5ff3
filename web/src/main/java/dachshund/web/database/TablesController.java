package dachshund.web.database;

import dachshund.core.definition.Definition;
import dachshund.core.destination.StoreProblem;
import dachshund.core.reader.FoundTable;
import dachshund.core.reader.Question;
import dachshund.core.reader.TableName;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.reader.TableShape.Sort;
import dachshund.core.reader.TimeColumn;
import dachshund.core.window.Span;
import dachshund.core.window.WindowProblem;
import dachshund.office.audit.Audit;
import dachshund.office.export.Exports;
import dachshund.office.export.FileFormat;
import dachshund.office.reader.Databases;
import dachshund.office.window.Windows;
import dachshund.web.page.Shown;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.security.Principal;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.ModelAttribute;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;

/** Tables and views of a database: what is there, their rows, and these as a file; for those who design alone. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/review/databases/{id}")
class TablesController {

    private static final int PAGE = 100;
    /** So many pages can be turned; who wants other rows asks for a window. */
    private static final int MOST_PAGES = 1000;

    private static final int MOST_TABLES = 300;
    /** Letters of a cell that are shown; the whole is a file's. */
    private static final int LETTERS = 200;

    private final Databases databases;
    private final Windows windows;
    private final Exports exports;
    private final Audit audit;
    private final Shown shown;

    /** The rows that are wanted, as an address has them. */
    public record Wanted(
            String schema, String table, String by, Boolean up, String time, String form, String window, Integer page) {

        public Wanted {
            schema = schema == null ? "" : schema;
            table = table == null ? "" : table;
            by = by == null ? "" : by;
            time = time == null ? "" : time;
            form = form == null ? "" : form;
            window = window == null ? "" : window.strip();
            up = Boolean.TRUE.equals(up);
            page = page == null ? 1 : Math.min(MOST_PAGES, Math.max(1, page));
        }

        public TableName name() {
            return new TableName(schema, table);
        }
    }

    /** One page of rows as it is shown. */
    public record Page(List<TableShape.Column> columns, List<List<String>> rows, boolean more, long timeless) {}

    TablesController(Databases databases, Windows windows, Exports exports, Audit audit, Shown shown) {
        this.databases = databases;
        this.windows = windows;
        this.exports = exports;
        this.audit = audit;
        this.shown = shown;
    }

    private Definition database(String id) {
        return databases
                .find(id)
                .orElseThrow(() -> new IllegalArgumentException("This database is not there any more."));
    }

    @Needs(Right.DESIGN)
    @GetMapping("/tables")
    String tables(
            @PathVariable String id,
            @RequestParam(defaultValue = "") String q,
            @ModelAttribute("wanted") Wanted wanted,
            Model model) {
        model.addAttribute("database", database(id));
        model.addAttribute("q", q);
        try {
            TableReading reading = databases.tables(id);
            List<FoundTable> all = reading.tables();
            List<FoundTable> found = all.stream()
                    .filter(each -> each.name()
                            .words()
                            .toLowerCase(Locale.ROOT)
                            .contains(q.strip().toLowerCase(Locale.ROOT)))
                    .toList();
            model.addAttribute("any", !all.isEmpty());
            model.addAttribute("count", found.size());
            model.addAttribute("tables", found.subList(0, Math.min(MOST_TABLES, found.size())));
            if (!wanted.table().isEmpty()) {
                show(reading, wanted, model);
            }
        } catch (StoreProblem problem) {
            model.addAttribute("trouble", problem.getMessage());
        }
        return "database/tables";
    }

    /** The rows alone, as they are asked for otherwise. */
    @Needs(Right.DESIGN)
    @GetMapping("/rows")
    String rows(@PathVariable String id, @ModelAttribute("wanted") Wanted wanted, Model model) {
        model.addAttribute("database", database(id));
        try {
            show(databases.tables(id), wanted, model);
        } catch (StoreProblem problem) {
            model.addAttribute("trouble", problem.getMessage());
        }
        return "database/tables :: rows";
    }

    private void show(TableReading reading, Wanted wanted, Model model) throws StoreProblem {
        Optional<TableShape> found = reading.describe(wanted.name());
        if (found.isEmpty()) {
            model.addAttribute(
                    "trouble", "There is no table or view " + wanted.name().words() + " any more.");
            return;
        }
        TableShape shape = found.get();
        model.addAttribute("shape", shape);
        model.addAttribute(
                "times",
                shape.columns().stream()
                        .filter(column -> column.sort() != Sort.TRUTH && column.sort() != Sort.CLOCK)
                        .toList());
        model.addAttribute("forms", TimeColumn.Form.values());
        model.addAttribute("formats", FileFormat.values());
        String time = time(shape, wanted).map(TimeColumn::name).orElse("");
        model.addAttribute("time", time);
        model.addAttribute(
                "form", time(shape, wanted).map(each -> each.form().name()).orElse(""));
        try {
            Question question = question(shape, wanted);
            model.addAttribute("ordered", question.order().orElse(""));
            model.addAttribute("down", question.newestFirst());
            model.addAttribute("page", page(reading, question.part((wanted.page() - 1L) * PAGE, PAGE + 1L)));
        } catch (WindowProblem | IllegalArgumentException problem) {
            model.addAttribute("refusal", problem.getMessage());
        } catch (StoreProblem problem) {
            model.addAttribute("refusal", problem.getMessage());
        }
    }

    private Page page(TableReading reading, Question question) throws StoreProblem {
        List<TableShape.Column> columns = new ArrayList<>();
        List<List<String>> rows = new ArrayList<>();
        TableReading.Read read = reading.read(question, TableReading.PAGE, new TableReading.Taker() {
            @Override
            public void columns(List<TableShape.Column> heads) {
                columns.addAll(heads);
            }

            @Override
            public boolean row(List<Object> cells) {
                rows.add(cells.stream().map(TablesController.this::cell).toList());
                return true;
            }
        });
        boolean more = rows.size() > PAGE;
        return new Page(columns, more ? rows.subList(0, PAGE) : rows, more, read.timeless());
    }

    private String cell(Object cell) {
        String text = shown.cell(cell);
        return text.length() > LETTERS ? text.substring(0, LETTERS) + "…" : text;
    }

    /** The column that says when a row was: the one that is asked for, else the first time stamp. */
    private static Optional<TimeColumn> time(TableShape shape, Wanted wanted) {
        return (wanted.time().isEmpty() ? shape.time() : shape.column(wanted.time()))
                .map(column -> new TimeColumn(
                        column.name(),
                        wanted.form().isEmpty() || wanted.time().isEmpty()
                                ? TimeColumn.usual(column)
                                : TimeColumn.Form.named(wanted.form())));
    }

    private Question question(TableShape shape, Wanted wanted) throws WindowProblem {
        Question question = Question.all(wanted.name());
        Optional<TimeColumn> time = time(shape, wanted);
        if (!wanted.window().isEmpty()) {
            TimeColumn of = time.orElseThrow(
                    () -> new IllegalArgumentException("Choose the column that says when a row was, for a window."));
            Span span = windows.span(wanted.window());
            question = question.within(of, span.from(), span.to());
        }
        if (!wanted.by().isEmpty()) {
            return question.by(wanted.by(), !wanted.up());
        }
        // The newest first, where a key or a time can say which these are without sorting all of them.
        Optional<String> key = shape.keys().stream()
                .filter(each -> each.primary() && each.columns().size() == 1)
                .map(each -> each.columns().get(0))
                .findFirst();
        Optional<String> order = wanted.window().isEmpty() ? key : time.map(TimeColumn::name);
        return order.isPresent() ? question.by(order.get(), true) : question;
    }

    /** All rows that are asked for, as a file. */
    @Needs(Right.DESIGN)
    @GetMapping("/rows.{ending}")
    void file(
            @PathVariable String id,
            @PathVariable String ending,
            @ModelAttribute("wanted") Wanted wanted,
            Principal by,
            HttpServletResponse response)
            throws StoreProblem, IOException, WindowProblem {
        Definition database = database(id);
        FileFormat format = FileFormat.of(ending)
                .orElseThrow(() -> new IllegalArgumentException("There is no format " + ending + "."));
        TableReading reading = databases.tables(id);
        TableShape shape = reading.describe(wanted.name())
                .orElseThrow(() -> new IllegalArgumentException(
                        "There is no table or view " + wanted.name().words() + " any more."));
        Question question = question(shape, wanted);
        audit.note(
                by.getName(),
                "took a file of a table",
                database.name() + " / " + wanted.name().words() + " as " + format.words()
                        + (wanted.window().isEmpty() ? "" : ", " + wanted.window()));
        response.setContentType(format.mediaType());
        response.setHeader(
                "Content-Disposition",
                "attachment; filename=\"" + wanted.table().replaceAll("[^A-Za-z0-9._-]", "_") + "." + ending + "\"");
        exports.write(reading, question, format, response.getOutputStream());
    }
}
