package dachshund.web.records;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.layout.BadQuality;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.office.definition.Definitions;
import dachshund.office.tag.TagFinder;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.row.ColumnForm;
import dachshund.web.row.ColumnPlace;
import dachshund.web.row.LongRow;
import jakarta.servlet.http.HttpServletResponse;
import java.security.Principal;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Stream;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;

/** Edits of a recorder's columns, and of the fields of its document. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/records/{id}/columns")
class ColumnController {

    private final RecorderPage page;
    private final Definitions definitions;
    private final LongRow longRow;
    private final NewRecorder newRecorder;

    /** A tag that feeds a column. */
    public record Fed(String key, String name) {}

    ColumnController(RecorderPage page, Definitions definitions, LongRow longRow, NewRecorder newRecorder) {
        this.page = page;
        this.definitions = definitions;
        this.longRow = longRow;
        this.newRecorder = newRecorder;
    }

    @PostMapping
    String add(
            @PathVariable String id,
            @RequestParam String what,
            @RequestParam(defaultValue = "") String text,
            @RequestParam int seen,
            Principal by,
            Model model) {
        return page.change(id, seen, by.getName(), model, recorder -> recorder.withLayout(added(recorder, what, text)));
    }

    private Layout added(RecorderDefinition recorder, String what, String text) {
        Layout layout = recorder.layout();
        if (what.equals("tag")) {
            return newRecorder.withTag(layout, TagFinder.ref(text));
        }
        ColumnSource.Offer offer = ColumnSource.offers(layout.shape(), page.properties(recorder)).stream()
                .filter(each -> each.key().equals(what))
                .findFirst()
                .orElseThrow(() -> new IllegalArgumentException("There is no such column to add: " + what));
        ColumnSource from = text.isEmpty() || offer.source().form().isEmpty()
                ? offer.source()
                : offer.source().filled(Map.of(offer.source().form().get(0).name(), text), layout);
        return offer.field()
                ? plus(layout, offer.name(), offer.type(), from)
                : layout.plus(Column.of(layout.freeName(offer.name()), offer.type(), from));
    }

    /** A column more, in a layout with a document a field of it. */
    private static Layout plus(Layout layout, String name, SqlType type, ColumnSource from) {
        int at = dachshund.core.layout.Reshape.documentAt(layout);
        if (at < 0) {
            return layout.plus(Column.of(layout.freeName(name), type, from));
        }
        List<Column> fields = new ArrayList<>(
                ((ColumnSource.Document) layout.columns().get(at).from()).fields());
        fields.add(Column.of(Layout.freeName(name, fields), type, from));
        return layout.with(at, layout.columns().get(at).from(new ColumnSource.Document(fields)));
    }

    @GetMapping("/{place}")
    String column(@PathVariable String id, @PathVariable String place, Model model) {
        Column column = ColumnPlace.read(place).of(page.recorder(id).layout());
        return editor(id, place, column, ColumnForm.values(column), Map.of(), model);
    }

    private String editor(
            String id,
            String place,
            Column column,
            Map<String, String> values,
            Map<String, String> problems,
            Model model) {
        RecorderDefinition recorder = page.recorder(id);
        ColumnPlace at = ColumnPlace.read(place);
        model.addAttribute("recorder", recorder);
        model.addAttribute("seen", page.seen(id));
        model.addAttribute("place", place);
        model.addAttribute("index", at.index());
        model.addAttribute("count", at.among(recorder.layout()).size());
        model.addAttribute("field", at.field() >= 0);
        model.addAttribute("column", column);
        model.addAttribute("source", longRow.source(column, true));
        model.addAttribute("values", values);
        model.addAttribute("problems", problems);
        model.addAttribute("form", column.from().form());
        model.addAttribute("files", page.writesFiles(recorder) && at.field() < 0);
        model.addAttribute(
                "withUnit",
                column.from().feeds().stream()
                        .findFirst()
                        .flatMap(definitions::tag)
                        .filter(tag -> !tag.unit().isEmpty())
                        .map(tag -> tag.name() + " [" + tag.unit() + "]")
                        .orElse(""));
        model.addAttribute(
                "fed",
                column.from().feeds().stream()
                        .map(tag -> new Fed(
                                tag.source() + " " + tag.address(),
                                definitions.tag(tag).map(TagInfo::fullName).orElse("a tag that is gone")))
                        .toList());
        String states = column.from().feeds().stream()
                .findFirst()
                .flatMap(definitions::tag)
                .map(TagInfo::states)
                .orElse("");
        model.addAttribute("states", states);
        model.addAttribute("statesLine", states.replace("\n", ", "));
        model.addAttribute("qualities", BadQuality.values());
        model.addAttribute("isKey", recorder.layout().isKey(column.name()));
        model.addAttribute("isIndexed", recorder.layout().indexes().contains(List.of(column.name())));
        return "records/column-editor :: editor";
    }

    @PostMapping("/{place}")
    String save(
            @PathVariable String id,
            @PathVariable String place,
            @RequestParam Map<String, String> form,
            @RequestParam(required = false) List<String> tag,
            @RequestParam int seen,
            Principal by,
            Model model,
            HttpServletResponse response) {
        RecorderDefinition recorder = page.recorder(id);
        ColumnPlace at = ColumnPlace.read(place);
        Column before = at.of(recorder.layout());
        ColumnForm read = new ColumnForm(form);
        Column after = read.column(before, recorder.layout(), tag == null ? List.of() : tag);
        Map<String, String> problems = new TreeMap<>(read.problems());
        String nameProblem = nameProblem(recorder, at, after.name());
        if (!nameProblem.isEmpty()) {
            problems.put("name", nameProblem);
        }
        if (!problems.isEmpty()) {
            response.setHeader("HX-Retarget", "#column-editor");
            response.setHeader("HX-Reswap", "innerHTML");
            Map<String, String> typed = new TreeMap<>(ColumnForm.values(before));
            typed.putAll(form);
            return editor(id, place, before, typed, problems, model);
        }
        boolean key = form.containsKey("key");
        boolean index = form.containsKey("index");
        return page.change(id, seen, by.getName(), model, each -> each.renamedColumn(
                        at.of(each.layout()).name(), after.name())
                .withLayout(keys(at.with(each.layout(), after), at, after.name(), key, index)));
    }

    /** Whether the column is part of the key, and has an index of its own. */
    private static Layout keys(Layout layout, ColumnPlace at, String name, boolean key, boolean index) {
        if (at.field() >= 0) {
            return layout;
        }
        List<String> keys = new ArrayList<>(
                layout.key().stream().filter(each -> !each.equals(name)).toList());
        if (key) {
            keys.add(
                    Math.min(
                            keys.size(),
                            layout.key().contains(name) ? layout.key().indexOf(name) : keys.size()),
                    name);
        }
        List<List<String>> indexes = layout.indexes().stream()
                .filter(each -> !each.equals(List.of(name)))
                .toList();
        return layout.withKeys(
                keys,
                index
                        ? Stream.concat(indexes.stream(), Stream.of(List.of(name)))
                                .toList()
                        : indexes);
    }

    private String nameProblem(RecorderDefinition recorder, ColumnPlace at, String name) {
        List<Column> columns = at.among(recorder.layout());
        for (int i = 0; i < columns.size(); i++) {
            if (i != at.index() && columns.get(i).name().equalsIgnoreCase(name)) {
                return (at.field() < 0 ? "Column " : "Field ") + (i + 1) + " is named " + name
                        + " already. Two of one name cannot stand in one " + (at.field() < 0 ? "table." : "document.");
            }
        }
        return at.field() >= 0
                ? name.isBlank() ? "A name is needed." : ""
                : page.dialect(recorder).identifierProblem(name).orElse("");
    }

    @PostMapping("/{place}/remove")
    String remove(
            @PathVariable String id, @PathVariable String place, @RequestParam int seen, Principal by, Model model) {
        return page.change(
                id,
                seen,
                by.getName(),
                model,
                recorder -> recorder.withLayout(ColumnPlace.read(place).without(recorder.layout())));
    }

    @PostMapping("/{place}/move")
    String move(
            @PathVariable String id,
            @PathVariable String place,
            @RequestParam int to,
            @RequestParam int seen,
            Principal by,
            Model model) {
        return page.change(
                id,
                seen,
                by.getName(),
                model,
                recorder -> recorder.withLayout(ColumnPlace.read(place).moved(recorder.layout(), to)));
    }

    /** Another tag feeds the column, the first good one winning until its form says otherwise; a constant gives its place to the tag. */
    @PostMapping("/{place}/tags")
    String addTag(
            @PathVariable String id,
            @PathVariable String place,
            @RequestParam String text,
            @RequestParam int seen,
            Principal by,
            Model model) {
        TagRef more = TagFinder.ref(text);
        return page.change(id, seen, by.getName(), model, recorder -> {
            ColumnPlace at = ColumnPlace.read(place);
            Column column = at.of(recorder.layout());
            List<TagRef> tags = Stream.concat(column.from().feeds().stream(), Stream.of(more))
                    .distinct()
                    .toList();
            ColumnSource from = column.from().fed(tags);
            return recorder.withLayout(at.with(recorder.layout(), column.from(from)));
        });
    }
}
