package dachshund.web.records;

import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.TableDescription;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Line;
import dachshund.core.layout.Reshape;
import dachshund.core.layout.Shape;
import dachshund.core.layout.SqlType;
import dachshund.core.sql.Dialect;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.reach.Reaching;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.row.FieldList;
import java.nio.charset.StandardCharsets;
import java.security.Principal;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import org.springframework.http.ContentDisposition;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** Edits of a layout as a whole: its shape, the lines of a row per tag, indexes, a field list as CSV, the columns of a table. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/records/{id}")
class LayoutController {

    private final RecorderPage page;
    private final Definitions definitions;
    private final Drafts drafts;
    private final Reaching reaching;
    private final NewRecorder newRecorder;
    private final FieldList fieldList;

    LayoutController(
            RecorderPage page,
            Definitions definitions,
            Drafts drafts,
            Reaching reaching,
            NewRecorder newRecorder,
            FieldList fieldList) {
        this.page = page;
        this.definitions = definitions;
        this.drafts = drafts;
        this.reaching = reaching;
        this.newRecorder = newRecorder;
        this.fieldList = fieldList;
    }

    @PostMapping("/shape")
    String shape(
            @PathVariable String id, @RequestParam Shape shape, @RequestParam int seen, Principal by, Model model) {
        return page.change(
                id,
                seen,
                by.getName(),
                model,
                recorder -> recorder.withLayout(Reshape.to(recorder.layout(), shape, newRecorder::described)));
    }

    @PostMapping("/lines/{index}")
    String line(
            @PathVariable String id,
            @PathVariable int index,
            @RequestParam String name,
            @RequestParam(defaultValue = "") String equipment,
            @RequestParam(defaultValue = "") String unit,
            @RequestParam int seen,
            Principal by,
            Model model) {
        if (name.isBlank()) {
            return page.refuse(id, model, "line" + index, "A name is needed: it is how the rows call the tag.", name);
        }
        return page.change(id, seen, by.getName(), model, recorder -> {
            List<Line> lines = new ArrayList<>(recorder.layout().lines());
            lines.set(index, new Line(lines.get(index).tag(), name.strip(), equipment.strip(), unit.strip()));
            return recorder.withLayout(recorder.layout().withLines(lines));
        });
    }

    @PostMapping("/lines/{index}/remove")
    String removeLine(
            @PathVariable String id, @PathVariable int index, @RequestParam int seen, Principal by, Model model) {
        return page.change(id, seen, by.getName(), model, recorder -> {
            List<Line> lines = new ArrayList<>(recorder.layout().lines());
            lines.remove(index);
            return recorder.withLayout(recorder.layout().withLines(lines));
        });
    }

    @PostMapping("/changed-lines")
    String changedLines(
            @PathVariable String id,
            @RequestParam(defaultValue = "false") boolean only,
            @RequestParam int seen,
            Principal by,
            Model model) {
        return page.change(
                id,
                seen,
                by.getName(),
                model,
                recorder -> recorder.withLayout(recorder.layout().withChangedLinesOnly(only)));
    }

    /** One index a line, names of columns with commas between. */
    @PostMapping("/indexes")
    String indexes(
            @PathVariable String id,
            @RequestParam(defaultValue = "") String indexes,
            @RequestParam int seen,
            Principal by,
            Model model) {
        Layout layout = page.recorder(id).layout();
        List<List<String>> read = new ArrayList<>();
        for (String line : indexes.lines().filter(each -> !each.isBlank()).toList()) {
            List<String> names = Arrays.stream(line.split(","))
                    .map(String::strip)
                    .filter(name -> !name.isEmpty())
                    .toList();
            Optional<String> unknown =
                    names.stream().filter(name -> layout.column(name).isEmpty()).findFirst();
            if (unknown.isPresent()) {
                return page.refuse(
                        id,
                        model,
                        "indexes",
                        "There is no column " + unknown.get()
                                + ". Write one index a line, names of columns with commas between.",
                        indexes);
            }
            read.add(names.stream()
                    .map(name -> layout.column(name).orElseThrow().name())
                    .toList());
        }
        return page.change(
                id,
                seen,
                by.getName(),
                model,
                recorder -> recorder.withLayout(
                        recorder.layout().withKeys(recorder.layout().key(), read)));
    }

    @GetMapping("/fields.csv")
    ResponseEntity<byte[]> fields(@PathVariable String id) {
        RecorderDefinition recorder = page.recorder(id);
        return ResponseEntity.ok()
                .contentType(new MediaType("text", "csv", StandardCharsets.UTF_8))
                .header(
                        "Content-Disposition",
                        ContentDisposition.attachment()
                                .filename(recorder.name() + " fields.csv", StandardCharsets.UTF_8)
                                .build()
                                .toString())
                .body(fieldList.write(recorder.layout()).getBytes(StandardCharsets.UTF_8));
    }

    @GetMapping("/fields-in")
    String fieldsForm(@PathVariable String id, Model model) {
        model.addAttribute("recorder", page.recorder(id));
        model.addAttribute("seen", page.seen(id));
        model.addAttribute("text", "");
        return "records/fields-in";
    }

    /** All lines or none: nothing is taken while one line has a problem. */
    @PostMapping("/fields-in")
    String fieldsIn(
            @PathVariable String id,
            @RequestParam String text,
            @RequestParam int seen,
            Principal by,
            Model model,
            RedirectAttributes flash) {
        RecorderDefinition recorder = page.recorder(id);
        FieldList.Read read = fieldList.read(recorder.layout(), text);
        if (!read.problems().isEmpty()) {
            fieldsForm(id, model);
            model.addAttribute("text", text);
            model.addAttribute("lineProblems", read.problems());
            return "records/fields-in";
        }
        drafts.edit(recorder.withLayout(read.layout()), seen, by.getName());
        flash.addFlashAttribute(
                "said", "The field list is taken: " + read.layout().columns().size() + " columns.");
        return "redirect:/records/" + id;
    }

    /** Columns of a table that is there: those that are not in the layout yet come in, mapped by name where a tag has it. */
    @PostMapping("/wheres/{index}/take")
    String takeColumns(
            @PathVariable String id, @PathVariable int index, @RequestParam int seen, Principal by, Model model) {
        RecorderDefinition recorder = page.recorder(id);
        RecorderDefinition.Where where = recorder.wheres().get(index);
        DestinationDefinition destination =
                definitions.destination(where.destination()).orElseThrow();
        try (RowStore store = reaching.store(destination)) {
            Optional<TableDescription> found =
                    store.in(where.place().dynamic() ? "" : where.database()).describe(where.table());
            if (found.isEmpty()) {
                return page.refuse(
                        id,
                        model,
                        "table" + index,
                        "There is no table " + where.table() + " to take columns from.",
                        where.table());
            }
            return page.change(
                    id,
                    seen,
                    by.getName(),
                    model,
                    each -> each.withLayout(taken(each.layout(), found.get(), store.dialect())));
        } catch (StoreProblem away) {
            return page.refuse(id, model, "table" + index, away.getMessage(), where.table());
        }
    }

    private Layout taken(Layout layout, TableDescription table, Dialect dialect) {
        Layout result = layout;
        for (TableDescription.TableColumn there : table.columns()) {
            Optional<SqlType> type = dialect.readType(there.typeName());
            Optional<Column> own = like(result, there.name());
            if (own.isPresent()) {
                int at = result.columns().indexOf(own.get());
                boolean fixed = own.get().isAutoNumber() || own.get().isRowId();
                Column named = own.get().named(there.name());
                result = result.with(at, fixed || type.isEmpty() ? named : named.typed(type.get()));
            } else if (there.numbered()) {
                result = result.plus(Column.of(there.name(), SqlType.BIGINT, new ColumnSource.AutoNumber()));
            } else {
                SqlType known = type.orElse(SqlType.text(80));
                result = result.plus(newRecorder.byName(there.name(), known));
            }
        }
        // What was only proposed and the table does not have goes; what somebody designed stays and is shown as
        // missing.
        for (int i = result.columns().size() - 1; i >= 0; i--) {
            Column column = result.columns().get(i);
            boolean proposed = Layout.proposed().columns().stream().anyMatch(each -> each.equals(column));
            if (proposed && table.column(column.name()).isEmpty()) {
                result = result.without(i);
            }
        }
        return result;
    }

    /** The column of that name, however it is written. */
    private static Optional<Column> like(Layout layout, String name) {
        return layout.columns().stream()
                .filter(column -> plain(column.name()).equals(plain(name)))
                .findFirst();
    }

    private static String plain(String name) {
        return name.toLowerCase(Locale.ROOT).replaceAll("[^\\p{L}\\p{N}]", "");
    }
}
