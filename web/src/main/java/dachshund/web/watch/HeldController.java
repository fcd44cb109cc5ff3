package dachshund.web.watch;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.row.Conversion;
import dachshund.core.row.Made;
import dachshund.core.row.Redesign;
import dachshund.core.text.SafeCell;
import dachshund.engine.Engine;
import dachshund.engine.lane.DestinationWriter;
import dachshund.engine.lane.HeldRow;
import dachshund.engine.lane.LaneDesign;
import dachshund.engine.lane.LaneStatus;
import dachshund.office.audit.Audit;
import dachshund.office.definition.Definitions;
import dachshund.web.page.CsvDownload;
import dachshund.web.page.Shown;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import de.siegmar.fastcsv.writer.CsvWriter;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.security.Principal;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.ExceptionHandler;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** The rows that a recorder holds for one destination: looked at, given to the released design, taken away as CSV, discarded. */
@Needs(Right.RELEASE)
@Controller
@RequestMapping("/watch/{id}/held/{destination}")
class HeldController {

    private static final int PAGE = 50;
    /** So many are rehearsed; the page says so where there are more. */
    private static final int REHEARSED = 5_000;

    private static final int AT_ONCE = 1_000;
    private static final long ANSWER_WITHIN_SECONDS = 3;

    private final Definitions definitions;
    private final Engine engine;
    private final Audit audit;
    private final Shown shown;

    /**
     * A held row as it was made.
     *
     * @param design where it was to go when it was made
     */
    public record Line(long nth, Instant recordTime, String design, String values) {}

    /**
     * What would become of the rows under the released design.
     *
     * @param looked  how many were looked at, from the first on
     * @param fit     of these, the ones that would be written
     * @param aside   why the others would be set aside, and how many each
     * @param lost    columns that the released design has no place for
     * @param first   the first row that would be written, by column
     * @param refusal why they cannot be given to it; empty where they can
     */
    public record Rehearsed(
            int looked,
            int fit,
            Map<String, Integer> aside,
            Set<String> lost,
            Map<String, String> first,
            String refusal) {}

    HeldController(Definitions definitions, Engine engine, Audit audit, Shown shown) {
        this.definitions = definitions;
        this.engine = engine;
        this.audit = audit;
        this.shown = shown;
    }

    private DestinationWriter writer(String destination) {
        return engine.writer(destination).orElseThrow();
    }

    private LaneStatus lane(String id, String destination) {
        return writer(destination).status(id).orElseThrow();
    }

    private List<HeldRow> rows(String id, String destination, long after, int most) {
        try {
            return writer(destination).held(id, after, most).get(ANSWER_WITHIN_SECONDS, TimeUnit.SECONDS);
        } catch (TimeoutException busy) {
            throw new Busy();
        } catch (ExecutionException failed) {
            throw new IllegalStateException("The rows that are held could not be read.", failed.getCause());
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
            throw new Busy();
        }
    }

    /** The writer is in a call to its destination and has not come to the question. */
    private static final class Busy extends RuntimeException {
        private static final long serialVersionUID = 1;
    }

    @ExceptionHandler(Busy.class)
    String busy(Model model, HttpServletResponse response) {
        response.setStatus(HttpStatus.SERVICE_UNAVAILABLE.value());
        model.addAttribute("title", "Not just now");
        model.addAttribute(
                "sentence",
                "The destination is being written to and has not come to this in " + ANSWER_WITHIN_SECONDS
                        + " s. Nothing was changed; look again in a moment.");
        return "page/problem";
    }

    /** The recorder as it is released, with its one Where for the destination; empty where it writes there no more. */
    private Optional<RecorderDefinition> released(String id, String destination) {
        return definitions
                .live(id)
                .filter(RecorderDefinition.class::isInstance)
                .map(RecorderDefinition.class::cast)
                .flatMap(recorder -> recorder.wheres().stream()
                        .filter(where -> where.destination().equals(destination))
                        .findFirst()
                        .map(where -> recorder.withWheres(List.of(where))));
    }

    @GetMapping
    String show(
            @PathVariable String id,
            @PathVariable String destination,
            @RequestParam(defaultValue = "0") long after,
            Model model) {
        LaneStatus lane = lane(id, destination);
        List<HeldRow> rows = rows(id, destination, after, PAGE + 1);
        model.addAttribute("id", id);
        model.addAttribute("destination", destination);
        model.addAttribute(
                "recorderName", definitions.find(id).map(Definition::name).orElse(id));
        model.addAttribute(
                "destinationName",
                definitions
                        .find(DestinationDefinition.class, destination)
                        .map(Definition::name)
                        .orElse(destination));
        model.addAttribute("lane", lane);
        model.addAttribute("rows", rows.stream().limit(PAGE).map(this::line).toList());
        model.addAttribute("after", after);
        model.addAttribute("more", rows.size() > PAGE ? rows.get(PAGE - 1).nth() : 0L);
        rehearsed(id, destination, model);
        return "watch/held";
    }

    /** All that is held when the page is made is what its buttons are about: what comes later is not. */
    private void rehearsed(String id, String destination, Model model) {
        List<HeldRow> looked = new ArrayList<>();
        long after = 0;
        for (List<HeldRow> page = rows(id, destination, after, AT_ONCE);
                !page.isEmpty() && looked.size() < REHEARSED;
                page = rows(id, destination, after, AT_ONCE)) {
            looked.addAll(page);
            after = page.get(page.size() - 1).nth();
        }
        Optional<RecorderDefinition> released = released(id, destination);
        model.addAttribute("last", writer(destination).last(id));
        model.addAttribute("rehearsed", rehearsal(looked, released));
        model.addAttribute(
                "other",
                looked.stream()
                        .anyMatch(row -> row.design().isPresent()
                                && released.isPresent()
                                && !same(row.design().get(), released.get())));
    }

    private static boolean same(LaneDesign made, RecorderDefinition released) {
        return LaneDesign.of(released).equals(made);
    }

    private Rehearsed rehearsal(List<HeldRow> rows, Optional<RecorderDefinition> released) {
        if (released.isEmpty()) {
            return new Rehearsed(
                    0, 0, Map.of(), Set.of(), Map.of(), "No released design of this recorder writes here any more.");
        }
        Where where = released.get().wheres().get(0);
        Map<Long, Redesign> ways = new HashMap<>();
        Map<String, Integer> aside = new LinkedHashMap<>();
        Set<String> lost = new LinkedHashSet<>();
        Map<String, String> first = new LinkedHashMap<>();
        String refusal = "";
        int fit = 0;
        for (HeldRow row : rows) {
            if (row.row().isEmpty() || row.design().isEmpty()) {
                aside.merge(row.problem(), 1, Integer::sum);
                continue;
            }
            LaneDesign made = row.design().get();
            Where before = made.recorder().wheres().get(0);
            if (where.place().dynamic() && !where.place().equals(before.place())) {
                refusal = "Where rows go is made of their values, and the pattern is another one now: " + before.table()
                        + " was " + "the one they were made for. Take them away as CSV.";
            }
            Redesign way = ways.computeIfAbsent(
                    made.key(),
                    key -> new Redesign(made.recorder().layout(), released.get().layout(), engine.zone()));
            lost.addAll(way.lost());
            Made result = way.of(row.row().get());
            if (result instanceof Made.Whole whole) {
                fit++;
                if (first.isEmpty()) {
                    cells(released.get(), whole.row().cells(), first);
                }
            } else if (result instanceof Made.Refused refused) {
                aside.merge(refused.reason(), 1, Integer::sum);
            }
        }
        return new Rehearsed(rows.size(), fit, aside, lost, first, refusal);
    }

    private void cells(RecorderDefinition recorder, Object[] cells, Map<String, String> into) {
        List<Column> columns = recorder.layout().written();
        for (int i = 0; i < columns.size(); i++) {
            into.put(columns.get(i).name(), shown.cell(cells[i]));
        }
    }

    private Line line(HeldRow row) {
        if (row.row().isEmpty() || row.design().isEmpty()) {
            return new Line(row.nth(), Instant.EPOCH, "", row.problem());
        }
        List<Column> columns = row.design().get().recorder().layout().written();
        List<String> values = new ArrayList<>();
        for (int i = 0; i < columns.size(); i++) {
            if (!columns.get(i).isRowId() && !isRecordTime(columns.get(i))) {
                String value = shown.cell(row.row().get().cells()[i]);
                values.add(columns.get(i).name() + " " + (value.isEmpty() ? "–" : value));
            }
        }
        return new Line(row.nth(), row.row().get().recordTime(), row.place(), String.join("   ", values));
    }

    private static boolean isRecordTime(Column column) {
        return column.from() instanceof ColumnSource.FromRun run && run.variable() == ColumnSource.Variable.RECORD_TIME;
    }

    /** All of them as CSV (RFC 4180), UTF-8 with a byte-order mark, times in UTC; a column for each column of any of their designs. */
    @GetMapping("/rows.csv")
    void csv(@PathVariable String id, @PathVariable String destination, HttpServletResponse response)
            throws IOException {
        Set<String> columns = new LinkedHashSet<>();
        eachPage(
                id,
                destination,
                page -> page.forEach(row -> row.design()
                        .ifPresent(design ->
                                design.recorder().layout().written().forEach(each -> columns.add(each.name())))));
        CsvWriter csv = CsvDownload.open(response, "held-" + id + ".csv");
        List<String> head = new ArrayList<>(List.of("row", "identity", "made at", "made for"));
        columns.forEach(name -> head.add(SafeCell.out(name)));
        csv.writeRecord(head);
        eachPage(id, destination, page -> page.forEach(row -> csv.writeRecord(record(row, columns))));
        csv.flush();
    }

    private static List<String> record(HeldRow row, Set<String> columns) {
        List<String> record = new ArrayList<>(List.of(
                Long.toString(row.nth()),
                row.row().map(each -> each.id().toString()).orElse(""),
                row.row().map(each -> each.recordTime().toString()).orElse(""),
                row.problem().isEmpty() ? SafeCell.out(row.place()) : row.problem()));
        Map<String, Object> cells = new HashMap<>();
        if (row.row().isPresent() && row.design().isPresent()) {
            List<Column> written = row.design().get().recorder().layout().written();
            for (int i = 0; i < written.size(); i++) {
                cells.put(written.get(i).name(), row.row().get().cells()[i]);
            }
        }
        columns.forEach(name -> {
            Object cell = cells.get(name);
            record.add(cell == null ? "" : cell instanceof String text ? SafeCell.out(text) : Conversion.plain(cell));
        });
        return record;
    }

    private void eachPage(String id, String destination, java.util.function.Consumer<List<HeldRow>> taker) {
        List<HeldRow> page = rows(id, destination, 0, AT_ONCE);
        while (!page.isEmpty()) {
            taker.accept(page);
            page = rows(id, destination, page.get(page.size() - 1).nth(), AT_ONCE);
        }
    }

    @PostMapping("/give")
    String give(
            @PathVariable String id,
            @PathVariable String destination,
            @RequestParam long upTo,
            Principal by,
            RedirectAttributes flash) {
        Optional<RecorderDefinition> released = released(id, destination);
        List<HeldRow> looked = rows(id, destination, 0, REHEARSED);
        String refusal = rehearsal(looked, released).refusal();
        if (!refusal.isEmpty()) {
            flash.addFlashAttribute("problem", refusal);
            return "redirect:/watch/" + id + "/held/" + destination;
        }
        writer(destination).give(id, upTo, released.orElseThrow(), engine.zone());
        note(by, "gave held rows to the released design", id, destination, upTo);
        flash.addFlashAttribute("said", "The rows are given to the released design and sent.");
        return "redirect:/watch/" + id;
    }

    @PostMapping("/discard")
    String discard(
            @PathVariable String id,
            @PathVariable String destination,
            @RequestParam long upTo,
            Principal by,
            RedirectAttributes flash) {
        writer(destination).discard(id, upTo);
        note(by, "discarded held rows", id, destination, upTo);
        flash.addFlashAttribute("said", "The rows are discarded, and counted as that.");
        return "redirect:/watch/" + id;
    }

    private void note(Principal by, String what, String id, String destination, long upTo) {
        long waiting = lane(id, destination).account().waiting();
        audit.note(
                by.getName(),
                what,
                definitions.find(id).map(Definition::name).orElse(id) + " into "
                        + definitions.find(destination).map(Definition::name).orElse(destination) + ": up to row "
                        + upTo + ", " + waiting + " on disk then");
    }
}
