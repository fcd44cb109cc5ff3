package dachshund.web.keeping;

import dachshund.core.definition.Definition;
import dachshund.core.destination.StoreProblem;
import dachshund.core.reader.Question;
import dachshund.core.reader.TableName;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.reader.TableShape.Sort;
import dachshund.core.reader.TimeColumn;
import dachshund.core.window.Span;
import dachshund.core.window.WindowProblem;
import dachshund.engine.Engine;
import dachshund.office.archive.BroughtFiles;
import dachshund.office.archive.BroughtFiles.Brought;
import dachshund.office.archive.HistoryFromTable;
import dachshund.office.archive.HistoryFromTable.Mapping;
import dachshund.office.reader.Databases;
import dachshund.office.window.Windows;
import dachshund.office.work.Work;
import dachshund.web.page.Shown;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.work.LongWork;
import java.security.Principal;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** History brought in from a table of a database: read into a file, which is then reviewed and written as any other. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/plant/history/table")
class BringTableController {

    private static final String PAGE = "/plant/history";
    /** How the fields of the form begin that name the tag of a column. */
    private static final String TAG = "tag.";

    private final Databases databases;
    private final BroughtFiles files;
    private final BringInController bringing;
    private final LongWork longWork;
    private final Windows windows;
    private final Engine engine;
    private final Shown shown;

    BringTableController(
            Databases databases,
            BroughtFiles files,
            BringInController bringing,
            LongWork longWork,
            Windows windows,
            Engine engine,
            Shown shown) {
        this.databases = databases;
        this.files = files;
        this.bringing = bringing;
        this.longWork = longWork;
        this.windows = windows;
        this.engine = engine;
        this.shown = shown;
    }

    @Needs(Right.DESIGN)
    @GetMapping
    String form(
            @RequestParam(defaultValue = "") String database,
            @RequestParam(defaultValue = "") String schema,
            @RequestParam(defaultValue = "") String table,
            Model model) {
        Map<String, String> typed = new LinkedHashMap<>();
        typed.put("window", "");
        return form(database, new TableName(schema, table), typed, "", model);
    }

    private String form(String id, TableName table, Map<String, String> typed, String problem, Model model) {
        Definition database = databases
                .find(id)
                .orElseThrow(() -> new IllegalArgumentException("This database is not there any more."));
        model.addAttribute("database", database);
        model.addAttribute("table", table);
        model.addAttribute("typed", typed);
        model.addAttribute("refusal", problem);
        try {
            TableShape shape = databases
                    .tables(id)
                    .describe(table)
                    .orElseThrow(() ->
                            new IllegalArgumentException("There is no table or view " + table.words() + " any more."));
            model.addAttribute("columns", shape.columns());
            model.addAttribute("forms", TimeColumn.Form.values());
            Optional<TableShape.Column> time = Optional.ofNullable(typed.get("time"))
                    .flatMap(shape::column)
                    .or(shape::time);
            typed.putIfAbsent("time", time.map(TableShape.Column::name).orElse(""));
            typed.putIfAbsent(
                    "form",
                    time.map(TimeColumn::usual).map(TimeColumn.Form::name).orElse("STAMP"));
            model.addAttribute(
                    "values",
                    shape.columns().stream()
                            .filter(column -> column.sort() == Sort.NUMBER
                                    || column.sort() == Sort.TRUTH
                                    || column.sort() == Sort.TEXT)
                            .toList());
        } catch (StoreProblem | IllegalArgumentException cannot) {
            model.addAttribute("columns", List.of());
            model.addAttribute("refusal", cannot.getMessage());
        }
        return "keeping/bring-table";
    }

    private static Mapping mapping(Map<String, String> typed) {
        Map<String, String> tags = new LinkedHashMap<>();
        typed.forEach((name, text) -> {
            if (name.startsWith(TAG) && !text.isBlank()) {
                tags.put(name.substring(TAG.length()), text.strip());
            }
        });
        TimeColumn time = new TimeColumn(
                typed.getOrDefault("time", ""), TimeColumn.Form.named(typed.getOrDefault("form", "STAMP")));
        Mapping mapping = new Mapping(
                time,
                typed.getOrDefault("name", ""),
                typed.getOrDefault("value", ""),
                typed.getOrDefault("quality", ""),
                tags);
        mapping.check();
        return mapping;
    }

    @PostMapping
    String read(
            @RequestParam String database,
            @RequestParam(defaultValue = "") String schema,
            @RequestParam(defaultValue = "") String table,
            @RequestParam Map<String, String> typed,
            Principal by,
            Model model,
            RedirectAttributes flash) {
        TableName name = new TableName(schema, table);
        try {
            Mapping mapping = mapping(typed);
            String window = typed.getOrDefault("window", "");
            Question question =
                    Question.all(name); // in no order: sorting a table without an index is its server's work
            if (!window.isBlank()) {
                Span span = windows.span(window);
                question = question.within(mapping.time(), span.from(), span.to());
            }
            Question wanted = question;
            TableReading reading = databases.tables(database);
            return longWork.begin("Reading history", by, PAGE, flash, progress -> {
                long[] timeless = {0};
                Brought brought;
                try {
                    brought = files.write(
                            name.words(),
                            to -> timeless[0] = HistoryFromTable.write(
                                            reading, wanted, mapping, engine.zone(), to, progress)
                                    .timeless());
                } catch (StoreProblem problem) {
                    return new Work.Outcome(problem.getMessage() + " Nothing was written.", false, PAGE);
                }
                Work.Outcome outcome = bringing.reviewed(brought, progress);
                return timeless[0] == 0
                        ? outcome
                        : new Work.Outcome(
                                outcome.sentence() + " " + shown.count(timeless[0], "row")
                                        + (timeless[0] == 1 ? " is" : " are")
                                        + " left out: nobody can tell the time that stands there.",
                                outcome.went(),
                                outcome.page());
            });
        } catch (IllegalArgumentException | WindowProblem | StoreProblem problem) {
            return form(database, name, new LinkedHashMap<>(typed), problem.getMessage(), model);
        }
    }
}
