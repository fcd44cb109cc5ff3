package dachshund.web.records;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.TryOutcome;
import dachshund.core.layout.BadQuality;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.release.LayoutCheck.Remark;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.row.Made;
import dachshund.core.sql.Dialect;
import dachshund.core.sql.MariaDbDialect;
import dachshund.core.time.PeriodText;
import dachshund.core.when.When;
import dachshund.engine.Engine;
import dachshund.web.definition.Definitions;
import dachshund.web.definition.Draft;
import dachshund.web.tag.TagFinder;
import java.security.Principal;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.UnaryOperator;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;

/**
 * The recorder page. Every edit posts one change with the revision it was made on and gets the design back as it then
 * stands; a change that is not understood gets the design back unchanged with a sentence at its place.
 */
@Controller
@RequestMapping("/records/{id}")
class RecorderController {

    private static final Dialect USUAL_DIALECT = new MariaDbDialect();
    private static final int MOST_FOUND = 12;

    private final Definitions definitions;
    private final Engine engine;
    private final LongRow longRow;
    private final WhereCard.Maker whereCards;
    private final TagFinder finder;
    private final NewRecorder newRecorder;

    RecorderController(Definitions definitions, Engine engine, LongRow longRow, WhereCard.Maker whereCards, TagFinder finder, NewRecorder newRecorder) {
        this.definitions = definitions;
        this.engine = engine;
        this.longRow = longRow;
        this.whereCards = whereCards;
        this.finder = finder;
        this.newRecorder = newRecorder;
    }

    private RecorderDefinition recorder(String id) {
        return definitions.find(RecorderDefinition.class, id).orElseThrow();
    }

    private Dialect dialect(RecorderDefinition recorder) {
        return recorder.wheres().stream().findFirst().flatMap(where -> definitions.destination(where.destination()))
                .map(destination -> engine.storeKind(destination.store()).dialect()).orElse(USUAL_DIALECT);
    }

    @GetMapping
    String show(@PathVariable String id, Model model) {
        design(id, model);
        return "records/recorder";
    }

    @GetMapping("/design")
    String designOnly(@PathVariable String id, Model model) {
        return design(id, model);
    }

    private String design(String id, Model model) {
        RecorderDefinition recorder = recorder(id);
        List<Remark> remarks = longRow.remarks(recorder, dialect(recorder));
        model.addAttribute("recorder", recorder);
        model.addAttribute("seen", definitions.draft(id).map(Draft::revision).orElse(0));
        model.addAttribute("draft", definitions.draft(id).orElse(null));
        model.addAttribute("live", definitions.live(id).isPresent());
        model.addAttribute("period", PeriodText.write(((When.Every) recorder.whens().get(0)).period()));
        model.addAttribute("cells", longRow.cells(recorder, remarks));
        model.addAttribute("remarks", remarks.stream().filter(remark -> remark.column() < 0).map(Remark::sentence).toList());
        model.addAttribute("wheres", whereCards.cards(recorder));
        model.addAttribute("otherDestinations", definitions.all(DestinationDefinition.class).stream()
                .filter(destination -> recorder.wheres().stream().noneMatch(where -> where.destination().equals(destination.id()))).toList());
        model.addAttribute("zone", engine.zone().getId());
        model.addAttribute("variables", ColumnSource.Variable.values());
        model.addAttribute("numericColumns", recorder.layout().columns().stream()
                .filter(column -> column.type().numeric() && !column.isAutoNumber()).map(Column::name).toList());
        now(recorder, model);
        ribbon(recorder, model);
        status(id, model);
        return "records/recorder :: design";
    }

    @GetMapping("/now")
    String now(@PathVariable String id, Model model) {
        now(recorder(id), model);
        return "records/recorder :: now";
    }

    private void now(RecorderDefinition recorder, Model model) {
        model.addAttribute("now", longRow.now(recorder));
        model.addAttribute("recorder", recorder);
    }

    @GetMapping("/ribbon")
    String ribbon(@PathVariable String id, Model model) {
        RecorderDefinition recorder = recorder(id);
        ribbon(recorder, model);
        model.addAttribute("recorder", recorder);
        return "records/recorder :: ribbon";
    }

    private void ribbon(RecorderDefinition recorder, Model model) {
        model.addAttribute("ribbon", Ribbon.of(recorder, engine.clock().now(), engine.zone()));
    }

    @GetMapping("/status")
    String status(@PathVariable String id, Model model) {
        model.addAttribute("status", Optional.ofNullable(engine.status().get(id)).orElse(null));
        model.addAttribute("recorder", recorder(id));
        return "records/recorder :: status";
    }

    @GetMapping("/find")
    String find(@PathVariable String id, @RequestParam(defaultValue = "") String q, @RequestParam int seen, Model model) {
        List<TagFinder.FoundTag> found = q.isBlank() ? List.of() : finder.find("", q);
        model.addAttribute("recorder", recorder(id));
        model.addAttribute("seen", seen);
        model.addAttribute("q", q);
        model.addAttribute("found", found.subList(0, Math.min(MOST_FOUND, found.size())));
        model.addAttribute("more", found.size() - MOST_FOUND);
        return "records/recorder :: found";
    }

    /** Drafts a change and shows the design as it then is. */
    private String change(String id, int seen, Principal by, Model model, UnaryOperator<RecorderDefinition> change) {
        definitions.editRecorder(id, seen, by.getName(), change);
        return design(id, model);
    }

    private String refuse(String id, Model model, String field, String problem, String typed) {
        model.addAttribute("problemField", field);
        model.addAttribute("problem", problem);
        model.addAttribute("typed", typed);
        return design(id, model);
    }

    @PostMapping("/name")
    String name(@PathVariable String id, @RequestParam String name, @RequestParam int seen, Principal by, Model model) {
        String problem = definitions.nameProblem(Definition.Kind.RECORDER, id, name);
        return problem.isEmpty() ? change(id, seen, by, model, recorder -> recorder.withName(name.strip())) : refuse(id, model, "name", problem, name);
    }

    @PostMapping("/when")
    String when(@PathVariable String id, @RequestParam String period, @RequestParam int seen, Principal by, Model model) {
        try {
            Duration every = PeriodText.read(period);
            if (every.compareTo(When.Every.SHORTEST) < 0 || every.compareTo(When.Every.LONGEST) > 0) {
                return refuse(id, model, "period", "A rate lies between 100 ms and 24 h.", period);
            }
            return change(id, seen, by, model, recorder -> recorder.withWhens(List.of(new When.Every(every))));
        } catch (IllegalArgumentException problem) {
            return refuse(id, model, "period", problem.getMessage(), period);
        }
    }

    @PostMapping("/columns")
    String addColumn(@PathVariable String id, @RequestParam String what, @RequestParam(defaultValue = "") String text, @RequestParam int seen,
                     Principal by, Model model) {
        return change(id, seen, by, model, recorder -> recorder.withLayout(added(recorder.layout(), what, text)));
    }

    private Layout added(Layout layout, String what, String text) {
        return switch (what) {
            case "tag" -> newRecorder.withTag(layout, TagFinder.ref(text));
            case "constant" -> layout.plus(Column.of(layout.freeName("constant"), SqlType.text(80), new ColumnSource.Constant(text)));
            case "number" -> layout.plus(Column.of(layout.freeName("id"), SqlType.BIGINT, new ColumnSource.AutoNumber()));
            default -> {
                ColumnSource.Variable variable = ColumnSource.Variable.valueOf(what);
                SqlType type = switch (variable) {
                    case RECORD_TIME -> SqlType.timestamp(3);
                    case SEQUENCE -> SqlType.BIGINT;
                    case ROW_ID -> SqlType.text(40);
                    case RECORDER -> SqlType.text(120);
                };
                yield layout.plus(Column.of(layout.freeName(variable.name()), type, new ColumnSource.FromRun(variable)));
            }
        };
    }

    @GetMapping("/columns/{index}")
    String column(@PathVariable String id, @PathVariable int index, Model model) {
        return editor(id, index, recorder(id).layout().columns().get(index), model);
    }

    private String editor(String id, int index, Column column, Model model) {
        RecorderDefinition recorder = recorder(id);
        model.addAttribute("recorder", recorder);
        model.addAttribute("seen", definitions.draft(id).map(Draft::revision).orElse(0));
        model.addAttribute("index", index);
        model.addAttribute("count", recorder.layout().columns().size());
        model.addAttribute("column", column);
        model.addAttribute("source", longRow.source(column, true));
        model.addAttribute("fromTag", column.from() instanceof ColumnSource.FromTag);
        model.addAttribute("aspect", column.from() instanceof ColumnSource.FromTag tag ? tag.aspect().name() : "");
        model.addAttribute("constant", column.from() instanceof ColumnSource.Constant constant ? constant.text() : null);
        model.addAttribute("fixedType", column.isAutoNumber() || column.isRowId());
        model.addAttribute("qualities", BadQuality.values());
        return "records/column-editor :: editor";
    }

    @PostMapping("/columns/{index}")
    String saveColumn(@PathVariable String id, @PathVariable int index, @RequestParam String name, @RequestParam(defaultValue = "") String type,
                      @RequestParam(defaultValue = "false") boolean required, @RequestParam(defaultValue = "WRITE_NULL") BadQuality badQuality,
                      @RequestParam(defaultValue = "") String aspect, @RequestParam(defaultValue = "") String constant,
                      @RequestParam int seen, Principal by, Model model, jakarta.servlet.http.HttpServletResponse response) {
        RecorderDefinition recorder = recorder(id);
        Column before = recorder.layout().columns().get(index);
        String nameProblem = nameProblem(recorder, index, name);
        String typeProblem = "";
        SqlType wanted = before.type();
        try {
            wanted = type.isBlank() ? before.type() : SqlType.read(type);
        } catch (IllegalArgumentException problem) {
            typeProblem = problem.getMessage();
        }
        if (!nameProblem.isEmpty() || !typeProblem.isEmpty()) {
            model.addAttribute("nameProblem", nameProblem);
            model.addAttribute("typeProblem", typeProblem);
            model.addAttribute("typedName", name);
            model.addAttribute("typedType", type);
            response.setHeader("HX-Retarget", "#column-editor");
            response.setHeader("HX-Reswap", "innerHTML");
            return editor(id, index, before, model);
        }
        ColumnSource from = source(before.from(), aspect, constant);
        if (!from.equals(before.from()) && type.equals(before.type().words()) && from instanceof ColumnSource.FromTag tag) {
            wanted = switch (tag.aspect()) {
                case VALUE -> before.type();
                case QUALITY -> SqlType.text(120);
                case SOURCE_TIME -> SqlType.timestamp(6);
            };
        }
        Column after = new Column(name.strip(), wanted, from, required, badQuality);
        return change(id, seen, by, model, each -> each.withLayout(each.layout().with(index, after)));
    }

    private static ColumnSource source(ColumnSource before, String aspect, String constant) {
        if (before instanceof ColumnSource.FromTag tag && !aspect.isEmpty()) {
            return new ColumnSource.FromTag(tag.tag(), ColumnSource.Aspect.valueOf(aspect));
        }
        return before instanceof ColumnSource.Constant ? new ColumnSource.Constant(constant) : before;
    }

    private String nameProblem(RecorderDefinition recorder, int index, String name) {
        List<Column> columns = recorder.layout().columns();
        for (int i = 0; i < columns.size(); i++) {
            if (i != index && columns.get(i).name().equalsIgnoreCase(name.strip())) {
                return "Column " + (i + 1) + " is named " + name.strip() + " already. Two columns of one name cannot stand in one table.";
            }
        }
        return dialect(recorder).identifierProblem(name.strip()).orElse("");
    }

    @PostMapping("/columns/{index}/remove")
    String removeColumn(@PathVariable String id, @PathVariable int index, @RequestParam int seen, Principal by, Model model) {
        return change(id, seen, by, model, recorder -> recorder.withLayout(recorder.layout().without(index)));
    }

    @PostMapping("/columns/{index}/move")
    String moveColumn(@PathVariable String id, @PathVariable int index, @RequestParam int to, @RequestParam int seen, Principal by, Model model) {
        int last = recorder(id).layout().columns().size() - 1;
        int place = Math.max(0, Math.min(last, to));
        return change(id, seen, by, model, recorder -> recorder.withLayout(recorder.layout().moved(index, place)));
    }

    @PostMapping("/wheres")
    String addWhere(@PathVariable String id, @RequestParam String destination, @RequestParam int seen, Principal by, Model model) {
        definitions.destination(destination).orElseThrow();
        return change(id, seen, by, model, recorder -> newRecorder.withWhere(recorder, destination));
    }

    @PostMapping("/wheres/{index}")
    String saveWhere(@PathVariable String id, @PathVariable int index, @RequestParam String table, @RequestParam(defaultValue = "false") boolean mayMake,
                     @RequestParam(defaultValue = "false") boolean mayAddColumns, @RequestParam(defaultValue = "false") boolean mark,
                     @RequestParam int seen, Principal by, Model model) {
        Optional<String> problem = dialect(recorder(id)).identifierProblem(table.strip());
        if (problem.isPresent()) {
            return refuse(id, model, "table" + index, problem.get(), table);
        }
        return change(id, seen, by, model, recorder -> {
            List<Where> wheres = new ArrayList<>(recorder.wheres());
            wheres.set(index, new Where(wheres.get(index).destination(), table.strip(), new Upkeep(mayMake, mayAddColumns), mark));
            return recorder.withWheres(wheres);
        });
    }

    @PostMapping("/wheres/{index}/remove")
    String removeWhere(@PathVariable String id, @PathVariable int index, @RequestParam int seen, Principal by, Model model) {
        return change(id, seen, by, model, recorder -> {
            List<Where> wheres = new ArrayList<>(recorder.wheres());
            wheres.remove(index);
            return recorder.withWheres(wheres);
        });
    }

    @PostMapping("/wheres/{index}/try")
    String tryOut(@PathVariable String id, @PathVariable int index, Model model) {
        RecorderDefinition recorder = recorder(id);
        Where where = recorder.wheres().get(index);
        DestinationDefinition destination = definitions.destination(where.destination()).orElseThrow();
        Made made = engine.preview(recorder);
        TryOutcome outcome;
        if (made instanceof Made.Whole whole) {
            try (RowStore store = engine.openStore(destination)) {
                outcome = store.tryOut(where.table(), recorder.layout(), whole.row());
            }
        } else if (made instanceof Made.Refused refused) {
            outcome = TryOutcome.failed("Nothing was sent: this row would be set aside. " + refused.reason());
        } else {
            outcome = TryOutcome.failed("Nothing was sent: the layout skips the row while " + ((Made.Skipped) made).reason() + ".");
        }
        model.addAttribute("outcome", outcome);
        model.addAttribute("place", where.table() + " in " + destination.name());
        return "records/recorder :: try";
    }
}
