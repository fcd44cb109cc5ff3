package dachshund.web.watch;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.RowBatch;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.TryOutcome;
import dachshund.core.layout.Column;
import dachshund.core.row.Made;
import dachshund.core.row.Mended;
import dachshund.core.row.RowFacts;
import dachshund.core.text.SafeCell;
import dachshund.engine.Engine;
import dachshund.engine.local.SetAside;
import dachshund.engine.local.SetAsideRows.Group;
import dachshund.engine.recorder.Resending;
import dachshund.office.audit.Audit;
import dachshund.office.definition.Definitions;
import dachshund.office.reach.Reaching;
import dachshund.web.page.CsvDownload;
import dachshund.web.page.Shown;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import de.siegmar.fastcsv.writer.CsvWriter;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.security.Principal;
import java.time.Duration;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** The rows that are set aside: looked through by reason, opened, mended, tried, sent, taken away as CSV, discarded. */
@Needs(Right.RELEASE)
@Controller
@RequestMapping("/watch/aside")
class AsideController {

    private static final int PAGE = 50;
    private static final int AT_ONCE = 500;
    /** A page that sends many rows answers within so long; the rest is sent with the next click. */
    private static final long SENDING_NANOS = Duration.ofSeconds(5).toNanos();

    private final Definitions definitions;
    private final Engine engine;
    private final Reaching reaching;
    private final Audit audit;
    private final Shown shown;

    /**
     * One cell of a row that is opened.
     *
     * @param text  null for no value
     * @param fixed whether it says which row it is, and is not mended
     */
    public record Cell(String name, String type, String text, boolean required, boolean fixed) {

        /** Characters that its field shows. */
        public int width() {
            return Math.max(8, Math.min(40, (text == null ? 0 : text.length()) + 2));
        }
    }

    /** A row in a list. */
    public record Line(SetAside row, String values) {}

    AsideController(Definitions definitions, Engine engine, Reaching reaching, Audit audit, Shown shown) {
        this.definitions = definitions;
        this.engine = engine;
        this.reaching = reaching;
        this.audit = audit;
        this.shown = shown;
    }

    @GetMapping
    String groups(Model model) {
        model.addAttribute("groups", engine.local().aside().groups());
        names(model);
        return "watch/aside";
    }

    private void names(Model model) {
        Map<String, String> names = new LinkedHashMap<>();
        definitions.all(RecorderDefinition.class).forEach(each -> names.put(each.id(), each.name()));
        definitions.all(DestinationDefinition.class).forEach(each -> names.put(each.id(), each.name()));
        model.addAttribute("names", names);
    }

    private String name(String id) {
        return definitions.find(id).map(Definition::name).orElse(id);
    }

    private Group group(String recorder, String destination, String alike) {
        return engine.local().aside().groups().stream()
                .filter(each -> each.recorder().equals(recorder)
                        && each.destination().equals(destination)
                        && each.alike().equals(alike))
                .findFirst()
                .orElseThrow();
    }

    @GetMapping("/rows")
    String rows(
            @RequestParam String recorder,
            @RequestParam String destination,
            @RequestParam String alike,
            @RequestParam(defaultValue = "0") long after,
            Model model) {
        List<SetAside> rows = engine.local().aside().page(recorder, destination, alike, after, PAGE + 1);
        model.addAttribute("group", group(recorder, destination, alike));
        model.addAttribute(
                "rows",
                rows.stream().limit(PAGE).map(row -> new Line(row, values(row))).toList());
        model.addAttribute("after", after);
        model.addAttribute("more", rows.size() > PAGE ? rows.get(PAGE - 1).id() : 0L);
        model.addAttribute("recorderName", name(recorder));
        model.addAttribute("destinationName", name(destination));
        return "watch/aside-rows";
    }

    private static String values(SetAside row) {
        List<String> values = new ArrayList<>();
        for (int i = 0; i < row.values().size(); i++) {
            String value = row.values().get(i);
            if (value != null && (row.rowId().equals(value) || sameTime(value, row))) {
                continue;
            }
            values.add((i < row.columns().size() ? row.columns().get(i) + " " : "") + (value == null ? "–" : value));
        }
        return String.join(", ", values);
    }

    /** The record time with as many digits as its column has. */
    private static boolean sameTime(String value, SetAside row) {
        return value.endsWith("Z") && row.recordTime().toString().startsWith(value.substring(0, value.length() - 1));
    }

    private SetAside row(long id) {
        return engine.local().aside().find(id).orElseThrow();
    }

    private Optional<RecorderDefinition> released(SetAside row) {
        return definitions
                .live(row.recorder())
                .filter(RecorderDefinition.class::isInstance)
                .map(RecorderDefinition.class::cast);
    }

    private RowFacts facts(RecorderDefinition recorder) {
        return definitions.livePlant().facts(recorder);
    }

    @GetMapping("/row/{id}")
    String open(@PathVariable long id, Model model) {
        SetAside row = row(id);
        return show(row, released(row).map(released -> Resending.texts(row, released)), row.reason(), model);
    }

    private String show(SetAside row, Optional<Map<String, String>> texts, String reason, Model model) {
        Optional<RecorderDefinition> released = released(row);
        model.addAttribute("row", row);
        model.addAttribute("reason", reason);
        model.addAttribute("recorderName", name(row.recorder()));
        model.addAttribute("destinationName", name(row.destination()));
        model.addAttribute(
                "mendable", released.isPresent() && where(row, released.get()).isPresent());
        model.addAttribute("asItWas", values(row));
        model.addAttribute(
                "cells",
                released.isEmpty()
                        ? List.of()
                        : released.get().layout().written().stream()
                                .map(column -> cell(column, row, texts.orElse(Map.of())))
                                .toList());
        return "watch/aside-row";
    }

    private static Cell cell(Column column, SetAside row, Map<String, String> texts) {
        return new Cell(
                column.name(),
                column.type().words(),
                column.isRowId()
                        ? row.rowId()
                        : Mended.fixed(column) ? row.recordTime().toString() : texts.get(column.name()),
                column.required(),
                Mended.fixed(column));
    }

    private static Optional<Where> where(SetAside row, RecorderDefinition released) {
        return released.wheres().stream()
                .filter(each -> each.destination().equals(row.destination()))
                .findFirst();
    }

    /** What was typed: an empty field is no value, except where an empty text stood and still stands. */
    private static Map<String, String> typed(SetAside row, RecorderDefinition released, Map<String, String> form) {
        Map<String, String> before = Resending.texts(row, released);
        Map<String, String> typed = new LinkedHashMap<>();
        released.layout().written().forEach(column -> {
            String text = form.get("cell." + column.name());
            typed.put(column.name(), text == null || text.isEmpty() && before.get(column.name()) == null ? null : text);
            if (text != null && text.isEmpty() && !"".equals(before.get(column.name()))) {
                typed.put(column.name(), null);
            }
        });
        return typed;
    }

    /** Sends the row as it is typed inside a transaction, reads it back and rolls back. */
    @PostMapping("/row/{id}/try")
    String tryOut(@PathVariable long id, @RequestParam Map<String, String> form, Model model) {
        SetAside row = row(id);
        RecorderDefinition released = released(row).orElseThrow();
        Where where = where(row, released).orElseThrow();
        Map<String, String> typed = typed(row, released, form);
        Made made = engine.resending().made(row, released, typed);
        TryOutcome outcome;
        if (made instanceof Made.Whole whole) {
            RowBatch batch = Resending.batch(released, where, whole.row(), facts(released));
            outcome = tryAt(row.destination(), batch);
            model.addAttribute("place", batch.place().words() + " in " + name(row.destination()));
        } else {
            outcome = TryOutcome.failed("Nothing was sent: " + ((Made.Refused) made).reason());
        }
        model.addAttribute("outcome", outcome);
        return show(row, Optional.of(typed), row.reason(), model);
    }

    private TryOutcome tryAt(String destination, RowBatch one) {
        DestinationDefinition definition = definitions
                .live(destination)
                .map(DestinationDefinition.class::cast)
                .orElseThrow();
        try (RowStore store = reaching.store(definition)) {
            String database = one.place().database();
            return database.isEmpty() || store.hasDatabase(database)
                    ? store.in(database).tryOut(one)
                    : TryOutcome.failed("Nothing was sent: there is no database " + database + " yet.");
        } catch (StoreProblem problem) {
            return TryOutcome.failed(problem.getMessage());
        }
    }

    @PostMapping("/row/{id}/send")
    String send(
            @PathVariable long id,
            @RequestParam Map<String, String> form,
            Principal by,
            Model model,
            RedirectAttributes flash) {
        SetAside row = row(id);
        RecorderDefinition released = released(row).orElseThrow();
        Map<String, String> typed = typed(row, released, form);
        try {
            Resending.Outcome outcome = engine.resending().send(List.of(row), Map.of(id, typed), facts(released));
            if (!outcome.refused().isEmpty()) {
                return show(
                        row,
                        Optional.of(typed),
                        outcome.refused().keySet().iterator().next(),
                        model);
            }
            audit.note(by.getName(), "sent a row again", name(row.recorder()) + ", " + row.rowId());
            engine.happenings().sentAgain(row.recorder(), name(row.recorder()), row.rowId(), typed, by.getName());
            flash.addFlashAttribute("said", said(outcome, 0));
        } catch (StoreProblem | IllegalArgumentException cannot) {
            return show(row, Optional.of(typed), "It was not sent. " + cannot.getMessage(), model);
        }
        return "redirect:/watch/aside";
    }

    /** All rows of a group, as they are, under the released design. */
    @PostMapping("/send")
    String sendAll(
            @RequestParam String recorder,
            @RequestParam String destination,
            @RequestParam String alike,
            Principal by,
            RedirectAttributes flash) {
        RecorderDefinition released = definitions
                .live(recorder)
                .filter(RecorderDefinition.class::isInstance)
                .map(RecorderDefinition.class::cast)
                .orElseThrow();
        RowFacts facts = facts(released);
        int sent = 0;
        int there = 0;
        Map<String, Integer> refused = new LinkedHashMap<>();
        long until = System.nanoTime() + SENDING_NANOS;
        long after = 0;
        try {
            for (List<SetAside> page = engine.local().aside().page(recorder, destination, alike, 0, AT_ONCE);
                    !page.isEmpty() && System.nanoTime() < until;
                    page = engine.local().aside().page(recorder, destination, alike, after, AT_ONCE)) {
                after = page.get(page.size() - 1).id();
                Resending.Outcome outcome = engine.resending().send(page, Map.of(), facts);
                sent += outcome.sent();
                there += outcome.there();
                outcome.refused().forEach((reason, rows) -> refused.merge(reason, rows, Integer::sum));
                page.stream()
                        .filter(row -> engine.local().aside().find(row.id()).isEmpty())
                        .forEach(row -> engine.happenings()
                                .sentAgain(
                                        recorder,
                                        name(recorder),
                                        row.rowId(),
                                        Resending.texts(row, released),
                                        by.getName()));
            }
        } catch (StoreProblem | IllegalArgumentException cannot) {
            flash.addFlashAttribute("problem", cannot.getMessage());
        }
        int left = engine.local()
                .aside()
                .page(recorder, destination, alike, after, 1)
                .size();
        audit.note(
                by.getName(),
                "sent rows again that were set aside",
                name(recorder) + ": " + sent + " sent, " + there + " there already");
        flash.addFlashAttribute("said", said(new Resending.Outcome(sent, there, refused), left));
        return "redirect:/watch/aside";
    }

    private String said(Resending.Outcome outcome, int left) {
        StringBuilder said = new StringBuilder(shown.count(outcome.sent(), "row") + " sent.");
        if (outcome.there() > 0) {
            said.append(' ')
                    .append(shown.count(outcome.there(), "row"))
                    .append(outcome.there() == 1 ? " was" : " were")
                    .append(" in the table already.");
        }
        outcome.refused().entrySet().stream().limit(3).forEach(each -> said.append(' ')
                .append(shown.count(each.getValue(), "row"))
                .append(each.getValue() == 1 ? " still does" : " still do")
                .append(" not fit: ")
                .append(each.getKey()));
        return said + (left > 0 ? " More are left; send them again." : "");
    }

    @PostMapping("/row/{id}/discard")
    String discard(@PathVariable long id, Principal by, RedirectAttributes flash) {
        SetAside row = row(id);
        // Noted first: what the audit does not know of is not thrown away.
        audit.note(
                by.getName(),
                "discarded a row that was set aside",
                name(row.recorder()) + ", " + row.rowId() + ": " + values(row));
        engine.local().aside().letGo(List.of(id));
        flash.addFlashAttribute("said", "The row is discarded.");
        return "redirect:/watch/aside";
    }

    @PostMapping("/discard")
    String discardAll(
            @RequestParam String recorder,
            @RequestParam String destination,
            @RequestParam String alike,
            @RequestParam long upTo,
            Principal by,
            RedirectAttributes flash) {
        List<Long> ids = new ArrayList<>();
        eachPage(recorder, destination, alike, page -> page.stream()
                .map(SetAside::id)
                .filter(id -> id <= upTo)
                .forEach(ids::add));
        audit.note(
                by.getName(),
                "discarded rows that were set aside",
                name(recorder) + ": " + shown.count(ids.size(), "row") + ": " + alike);
        engine.local().aside().letGo(ids);
        flash.addFlashAttribute(
                "said", shown.count(ids.size(), "row") + (ids.size() == 1 ? " is" : " are") + " discarded.");
        return "redirect:/watch/aside";
    }

    private void eachPage(String recorder, String destination, String alike, Consumer<List<SetAside>> taker) {
        List<SetAside> page = engine.local().aside().page(recorder, destination, alike, 0, AT_ONCE);
        while (!page.isEmpty()) {
            taker.accept(page);
            page = engine.local()
                    .aside()
                    .page(
                            recorder,
                            destination,
                            alike,
                            page.get(page.size() - 1).id(),
                            AT_ONCE);
        }
    }

    /** A group as CSV (RFC 4180), UTF-8 with a byte-order mark, times in UTC; a column for each column that any of them has. */
    @GetMapping("/rows.csv")
    void csv(
            @RequestParam String recorder,
            @RequestParam String destination,
            @RequestParam String alike,
            HttpServletResponse response)
            throws IOException {
        Set<String> columns = new LinkedHashSet<>();
        eachPage(recorder, destination, alike, page -> page.forEach(row -> columns.addAll(row.columns())));
        CsvWriter csv = CsvDownload.open(response, "set-aside-" + recorder + ".csv");
        List<String> head = new ArrayList<>(List.of("identity", "made for", "set aside at", "reason"));
        columns.forEach(name -> head.add(SafeCell.out(name)));
        csv.writeRecord(head);
        eachPage(
                recorder,
                destination,
                alike,
                page -> page.forEach(row -> {
                    List<String> record = new ArrayList<>(List.of(
                            row.rowId(), row.recordTime().toString(), row.at().toString(), SafeCell.out(row.reason())));
                    columns.forEach(name -> {
                        int at = row.columns().indexOf(name);
                        String value = at < 0 ? null : row.values().get(at);
                        record.add(value == null ? "" : SafeCell.outUnlessNumber(value));
                    });
                    csv.writeRecord(record);
                }));
        csv.flush();
    }
}
