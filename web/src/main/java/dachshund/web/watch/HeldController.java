package dachshund.web.watch;

import dachshund.core.definition.Definition;
import dachshund.core.layout.Column;
import dachshund.core.row.Conversion;
import dachshund.core.text.SafeCell;
import dachshund.core.work.Progress;
import dachshund.engine.Engine;
import dachshund.engine.lane.HeldRow;
import dachshund.engine.lane.LaneStatus;
import dachshund.office.audit.Audit;
import dachshund.office.definition.Definitions;
import dachshund.office.held.HeldRows;
import dachshund.office.work.Work;
import dachshund.web.page.CsvDownload;
import dachshund.web.page.Shown;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.work.LongWork;
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
import java.util.Set;
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

    private final Definitions definitions;
    private final Engine engine;
    private final HeldRows held;
    private final Audit audit;
    private final Shown shown;
    private final LongWork longWork;

    /**
     * A held row as it was made.
     *
     * @param design where it was to go when it was made
     */
    public record Line(long nth, Instant recordTime, String design, String values) {}

    HeldController(Definitions definitions, Engine engine, HeldRows held, Audit audit, Shown shown, LongWork longWork) {
        this.definitions = definitions;
        this.engine = engine;
        this.held = held;
        this.audit = audit;
        this.shown = shown;
        this.longWork = longWork;
    }

    private LaneStatus lane(String id, String destination) {
        return engine.writer(destination).orElseThrow().status(id).orElseThrow();
    }

    @ExceptionHandler(HeldRows.Busy.class)
    String busy(HeldRows.Busy busy, Model model, HttpServletResponse response) {
        response.setStatus(HttpStatus.SERVICE_UNAVAILABLE.value());
        model.addAttribute("title", "Not just now");
        model.addAttribute("sentence", busy.getMessage());
        return "page/problem";
    }

    private String name(String id) {
        return definitions.find(id).map(Definition::name).orElse(id);
    }

    @GetMapping
    String show(
            @PathVariable String id,
            @PathVariable String destination,
            @RequestParam(defaultValue = "0") long after,
            Model model) {
        LaneStatus lane = lane(id, destination);
        List<HeldRow> rows = held.some(id, destination, after, PAGE + 1);
        HeldRows.Rehearsed rehearsed = held.rehearsed(id, destination);
        model.addAttribute("id", id);
        model.addAttribute("destination", destination);
        model.addAttribute("recorderName", name(id));
        model.addAttribute("destinationName", name(destination));
        model.addAttribute("lane", lane);
        model.addAttribute("rows", rows.stream().limit(PAGE).map(this::line).toList());
        model.addAttribute("after", after);
        model.addAttribute("more", rows.size() > PAGE ? rows.get(PAGE - 1).nth() : 0L);
        model.addAttribute("rehearsed", rehearsed);
        model.addAttribute("first", first(rehearsed));
        return "watch/held";
    }

    /** The first row that would be written, by column. */
    private Map<String, String> first(HeldRows.Rehearsed rehearsed) {
        Map<String, String> first = new LinkedHashMap<>();
        rehearsed.first().ifPresent(row -> {
            List<Column> columns = rehearsed.under().orElseThrow().layout().written();
            for (int i = 0; i < columns.size(); i++) {
                first.put(columns.get(i).name(), shown.cell(row.cells()[i]));
            }
        });
        return first;
    }

    /** Looks at every row that is held now, however many. */
    @PostMapping("/rehearse")
    String rehearse(@PathVariable String id, @PathVariable String destination, Principal by, RedirectAttributes flash) {
        long upTo = held.last(id, destination);
        return longWork.begin(
                "Rehearsal of the rows of " + name(id) + " held for " + name(destination),
                by,
                page(id, destination),
                flash,
                progress -> {
                    HeldRows.Rehearsed done = held.rehearseAll(id, destination, upTo, progress);
                    return new Work.Outcome(
                            "All " + shown.count(done.looked()) + " rows are rehearsed: " + shown.count(done.fit())
                                    + " fit the released design.",
                            true,
                            page(id, destination));
                });
    }

    private static String page(String id, String destination) {
        return "/watch/" + id + "/held/" + destination;
    }

    private Line line(HeldRow row) {
        if (row.row().isEmpty() || row.design().isEmpty()) {
            return new Line(row.nth(), Instant.EPOCH, "", row.problem());
        }
        List<Column> columns = row.design().get().recorder().layout().written();
        List<String> values = new ArrayList<>();
        for (int i = 0; i < columns.size(); i++) {
            if (!columns.get(i).isRowId() && !columns.get(i).isRecordTime()) {
                String value = shown.cell(row.row().get().cells()[i]);
                values.add(columns.get(i).name() + " " + (value.isEmpty() ? "–" : value));
            }
        }
        return new Line(row.nth(), row.row().get().recordTime(), row.place(), String.join("   ", values));
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
        List<HeldRow> page = held.some(id, destination, 0, HeldRows.AT_ONCE);
        while (!page.isEmpty()) {
            taker.accept(page);
            page = held.some(id, destination, page.get(page.size() - 1).nth(), HeldRows.AT_ONCE);
        }
    }

    /** Every one of them is rehearsed before any is given. */
    @PostMapping("/give")
    String give(
            @PathVariable String id,
            @PathVariable String destination,
            @RequestParam long upTo,
            Principal by,
            RedirectAttributes flash) {
        return longWork.begin(
                "Giving rows of " + name(id) + " to the released design",
                by,
                page(id, destination),
                flash,
                progress -> given(id, destination, upTo, by.getName(), progress));
    }

    private Work.Outcome given(String id, String destination, long upTo, String by, Progress progress) {
        HeldRows.Rehearsed rehearsed = held.rehearseAll(id, destination, upTo, progress);
        if (!rehearsed.refusal().isEmpty()) {
            return new Work.Outcome(rehearsed.refusal(), false, page(id, destination));
        }
        progress.step("Giving them", 0, false);
        held.give(id, destination, rehearsed);
        note(by, "gave held rows to the released design", id, destination, upTo);
        return new Work.Outcome("The rows are given to the released design and sent.", true, "/watch/" + id);
    }

    @PostMapping("/discard")
    String discard(
            @PathVariable String id,
            @PathVariable String destination,
            @RequestParam long upTo,
            Principal by,
            RedirectAttributes flash) {
        held.discard(id, destination, upTo);
        note(by.getName(), "discarded held rows", id, destination, upTo);
        flash.addFlashAttribute("said", "The rows are discarded, and counted as that.");
        return "redirect:/watch/" + id;
    }

    private void note(String by, String what, String id, String destination, long upTo) {
        long waiting = lane(id, destination).account().waiting();
        audit.note(
                by,
                what,
                name(id) + " into " + name(destination) + ": up to row " + upTo + ", " + waiting + " on disk then");
    }
}
