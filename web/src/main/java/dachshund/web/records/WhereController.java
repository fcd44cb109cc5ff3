package dachshund.web.records;

import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.NamePattern;
import dachshund.core.destination.Place;
import dachshund.core.destination.RowAge;
import dachshund.core.destination.RowBatch;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreKind;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.TryOutcome;
import dachshund.core.destination.WriteMode;
import dachshund.core.layout.Column;
import dachshund.core.layout.Upkeep;
import dachshund.core.row.Made;
import dachshund.core.row.RowFacts;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.office.reach.Reaching;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import java.security.Principal;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;

/** Edits of where a recorder's rows go, and one row tried there. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/records/{id}/wheres")
class WhereController {

    private final RecorderPage page;
    private final Definitions definitions;
    private final Engine engine;
    private final Reaching reaching;
    private final NewRecorder newRecorder;

    WhereController(
            RecorderPage page, Definitions definitions, Engine engine, Reaching reaching, NewRecorder newRecorder) {
        this.page = page;
        this.definitions = definitions;
        this.engine = engine;
        this.reaching = reaching;
        this.newRecorder = newRecorder;
    }

    @PostMapping
    String add(
            @PathVariable String id,
            @RequestParam String destination,
            @RequestParam int seen,
            Principal by,
            Model model) {
        NewRecorder.there(definitions.destination(destination));
        return page.change(id, seen, by.getName(), model, recorder -> newRecorder.withWhere(recorder, destination));
    }

    @PostMapping("/{index}")
    String save(
            @PathVariable String id,
            @PathVariable int index,
            @RequestParam String table,
            @RequestParam(defaultValue = "false") boolean mayMake,
            @RequestParam(defaultValue = "false") boolean mayAddColumns,
            @RequestParam(defaultValue = "false") boolean mark,
            @RequestParam(defaultValue = "") String keepDays,
            @RequestParam(defaultValue = "false") boolean afterOthers,
            @RequestParam(defaultValue = "INSERT") String mode,
            @RequestParam(defaultValue = "") String procedure,
            @RequestParam(defaultValue = "") String arguments,
            @RequestParam(defaultValue = "") String standbyFor,
            @RequestParam(defaultValue = "") String database,
            @RequestParam(defaultValue = "") String named,
            @RequestParam int seen,
            Principal by,
            Model model) {
        RecorderDefinition recorder = page.recorder(id);
        StoreKind kind = kind(recorder.wheres().get(index));
        Where was = recorder.wheres().get(index);
        Where typed = new Where(
                was.destination(),
                table.strip(),
                was.upkeep(),
                was.mark(),
                was.mode(),
                standbyFor,
                database.strip(),
                named.strip());
        Optional<String> problem = typed.place().tableProblem(recorder.layout(), kind.dialect());
        if (problem.isPresent()) {
            return page.refuse(id, model, "table" + index, problem.get(), table);
        }
        problem = typed.place().databaseProblem(recorder.layout(), kind.dialect());
        if (problem.isPresent()) {
            return page.refuse(id, model, "database" + index, problem.get(), database);
        }
        problem = new NamePattern(typed.named()).problem(recorder.layout());
        if (problem.isPresent()) {
            return page.refuse(id, model, "named" + index, problem.get(), named);
        }
        List<String> given = Arrays.stream(arguments.split("[,\\s]+"))
                .filter(each -> !each.isEmpty())
                .toList();
        int columns = recorder.layout().written().size();
        if (mode.equals("CALL") && given.size() != columns) {
            return mode(id, index, seen, by, model, recorder, procedure, given, columns);
        }
        Upkeep upkeep;
        try {
            upkeep = new Upkeep(
                    mayMake || kind.files(), mayAddColumns, days(keepDays), afterOthers && !keepDays.isBlank());
        } catch (IllegalArgumentException out) {
            return page.refuse(id, model, "keep" + index, out.getMessage(), keepDays);
        }
        WriteMode way = mode(
                mode,
                procedure,
                given,
                recorder.layout().written().stream().map(Column::name).toList());
        problem = RowAge.problem(upkeep, recorder.layout(), way, typed.named());
        // What stood there before is not refused for something else that was changed: the page and the release say it.
        if (problem.isPresent() && !upkeep.equals(was.upkeep())) {
            return page.refuse(id, model, "keep" + index, problem.get(), keepDays);
        }
        boolean another =
                !typed.table().equals(was.table()) || !typed.database().equals(was.database());
        // A table that is there belongs to somebody: what may be done to it is ticked, never presumed.
        boolean theirs = another && !kind.files() && !typed.place().dynamic() && exists(typed);
        return page.change(id, seen, by.getName(), model, each -> {
            List<Where> wheres = new ArrayList<>(each.wheres());
            wheres.set(
                    index,
                    new Where(
                            wheres.get(index).destination(),
                            typed.table(),
                            theirs ? Upkeep.NONE : upkeep,
                            mark && !kind.files(),
                            mode(
                                    mode,
                                    procedure,
                                    given,
                                    each.layout().written().stream()
                                            .map(Column::name)
                                            .toList()),
                            standbyFor,
                            typed.database(),
                            typed.named()));
            return each.withWheres(wheres);
        });
    }

    private static int days(String typed) {
        if (typed.isBlank()) {
            return 0;
        }
        if (!typed.strip().matches("[1-9][0-9]{0,8}")) {
            throw new IllegalArgumentException(
                    "Type a whole number of days, or leave it empty and rows stay for good.");
        }
        return Integer.parseInt(typed.strip());
    }

    /** A call whose arguments are not said yet begins with the columns' own names. */
    private String mode(
            String id,
            int index,
            int seen,
            Principal by,
            Model model,
            RecorderDefinition recorder,
            String procedure,
            List<String> given,
            int columns) {
        if (!given.isEmpty()) {
            return page.refuse(
                    id,
                    model,
                    "arguments" + index,
                    "The row has " + columns + " columns and " + given.size()
                            + (given.size() == 1 ? " argument is" : " arguments are")
                            + " named. Name one for each column, in their order.",
                    String.join(", ", given));
        }
        List<String> names =
                recorder.layout().written().stream().map(Column::name).toList();
        return page.change(id, seen, by.getName(), model, each -> {
            List<Where> wheres = new ArrayList<>(each.wheres());
            wheres.set(
                    index,
                    wheres.get(index)
                            .withMode(new WriteMode.Call(
                                    procedure.isBlank() ? wheres.get(index).table() : procedure.strip(),
                                    names,
                                    names)));
            return each.withWheres(wheres);
        });
    }

    private static WriteMode mode(String mode, String procedure, List<String> arguments, List<String> columns) {
        return switch (mode) {
            case "UPDATE" -> new WriteMode.Update();
            case "INSERT_OR_UPDATE" -> new WriteMode.InsertOrUpdate();
            case "CALL" -> new WriteMode.Call(procedure.strip(), arguments, columns);
            case "CALL_JSON" -> new WriteMode.Call(procedure.strip(), List.of());
            default -> new WriteMode.Insert();
        };
    }

    private boolean exists(Where where) {
        try (RowStore store =
                reaching.store(definitions.destination(where.destination()).orElseThrow())) {
            return store.in(where.database()).describe(where.table()).isPresent();
        } catch (StoreProblem away) {
            return false;
        }
    }

    private StoreKind kind(Where where) {
        return engine.storeKind(
                definitions.destination(where.destination()).orElseThrow().store());
    }

    @PostMapping("/{index}/remove")
    String remove(@PathVariable String id, @PathVariable int index, @RequestParam int seen, Principal by, Model model) {
        return page.change(id, seen, by.getName(), model, recorder -> {
            List<Where> wheres = new ArrayList<>(recorder.wheres());
            wheres.remove(index);
            return recorder.withWheres(wheres);
        });
    }

    /** The tables, or files, and procedures that are there, to choose one. */
    @GetMapping("/{index}/tables")
    String tables(@PathVariable String id, @PathVariable int index, Model model) {
        Where where = page.recorder(id).wheres().get(index);
        model.addAttribute("index", index);
        try (RowStore store =
                reaching.store(definitions.destination(where.destination()).orElseThrow())) {
            RowStore database = where.place().dynamic() ? store : store.in(where.database());
            model.addAttribute("tables", database.tables());
            model.addAttribute("procedures", database.procedures());
        } catch (StoreProblem away) {
            model.addAttribute("tables", List.of());
            model.addAttribute("procedures", List.of());
            model.addAttribute("trouble", away.getMessage());
        }
        return "records/recorder :: tables";
    }

    @PostMapping("/{index}/try")
    String tryOut(@PathVariable String id, @PathVariable int index, Model model) {
        RecorderDefinition recorder = page.recorder(id);
        Where where = recorder.wheres().get(index);
        DestinationDefinition destination =
                definitions.destination(where.destination()).orElseThrow();
        List<Made> rows = engine.preview(recorder, page.plant());
        Made made = rows.isEmpty() ? null : rows.get(0);
        Place place = new Place(where.database(), where.table());
        TryOutcome outcome;
        if (made instanceof Made.Whole whole) {
            RowFacts facts = page.plant().facts(recorder);
            place = where.place().of(whole.row(), recorder.layout(), facts);
            destination = page.plant()
                    .destination(new NamePattern(where.named()).of(whole.row(), recorder.layout(), facts))
                    .orElse(destination);
            outcome = tryAt(
                    destination,
                    new RowBatch("try", place, recorder.layout(), false, where.mode(), List.of(whole.row())));
        } else if (made instanceof Made.Refused refused) {
            outcome = TryOutcome.failed("Nothing was sent: this row would be set aside. " + refused.reason());
        } else {
            outcome = TryOutcome.failed(
                    made == null
                            ? "Nothing was sent: there is no tag in this row yet."
                            : "Nothing was sent: the layout skips the row while " + ((Made.Skipped) made).reason()
                                    + ".");
        }
        model.addAttribute("outcome", outcome);
        model.addAttribute("place", place.words() + " in " + destination.name());
        return "records/recorder :: try";
    }

    private TryOutcome tryAt(DestinationDefinition destination, RowBatch one) {
        String database = one.place().database();
        try (RowStore store = reaching.store(destination)) {
            return database.isEmpty() || store.hasDatabase(database)
                    ? store.in(database).tryOut(one)
                    : TryOutcome.failed("Nothing was sent: there is no database " + database
                            + " yet. It is made before the first row, if upkeep may make the table.");
        } catch (StoreProblem problem) {
            return TryOutcome.failed(problem.getMessage());
        }
    }
}
