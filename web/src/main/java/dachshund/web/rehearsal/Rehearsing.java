package dachshund.web.rehearsal;

import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.layout.Column;
import dachshund.core.rehearse.Rehearsal;
import dachshund.core.row.Made;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.engine.Engine;
import dachshund.office.rehearse.RecentPast;
import dachshund.web.page.Shown;
import dachshund.web.when.Ribbon;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.springframework.stereotype.Component;

/** Rehearses a design over the last minutes of values: the ribbon, the rows, and the numbers beside. */
@Component
public class Rehearsing {

    private static final Duration REMEMBERED = Duration.ofMinutes(10);
    private static final int ROWS = 6;
    /** What stands in a column that the database numbers. */
    static final String NEXT = "next";

    private final Engine engine;
    private final RecentPast past;
    private final Shown shown;

    /** A row that would have been written, or why not; newest first. */
    public record Line(List<String> values, String reason) {}

    /**
     * @param since   from when on there are values, in the ribbon's window
     * @param volume  rows an hour, bytes a day and how long the disk lasts, in words
     */
    public record View(Ribbon ribbon, List<Line> rows, Instant since, String volume) {}

    public Rehearsing(Engine engine, RecentPast past, Shown shown) {
        this.engine = engine;
        this.past = past;
        this.shown = shown;
    }

    public View view(RecorderDefinition recorder, Plant plant) {
        Instant now = engine.clock().now();
        Duration span = Ribbon.span(recorder);
        Instant from = now.minus(span.dividedBy(2));
        Instant remembered = now.minus(REMEMBERED);
        Map<TagRef, List<TagValue>> history = new HashMap<>();
        Instant since = remembered;
        for (TagRef tag : Rehearsal.tags(recorder, plant)) {
            // One value before the window tells what was there when it began.
            List<TagValue> values =
                    withPast(tag, plant, engine.tags().entry(tag).look(now).since(Instant.EPOCH), remembered, now);
            history.put(tag, values);
            Instant first = values.isEmpty() ? now : values.get(0).receiveTime();
            since = values.size() > 1 && first.isAfter(since) ? first : since;
        }
        Instant begin = from.isBefore(remembered) ? from : remembered;
        Rehearsal.Rehearsed rehearsed = Rehearsal.run(
                recorder,
                plant,
                engine.recorders().identity(recorder.id()),
                history,
                begin,
                now,
                now.plus(span.dividedBy(2)),
                ROWS);
        return new View(
                Ribbon.of(recorder, rehearsed, now, engine.zone()),
                lines(recorder, rehearsed),
                since,
                volume(rehearsed));
    }

    /** What is in memory, and before it what the archive has: after a start nothing is in memory yet. */
    private List<TagValue> withPast(TagRef tag, Plant plant, List<TagValue> inMemory, Instant from, Instant now) {
        Instant oldest = inMemory.isEmpty() ? now : inMemory.get(0).receiveTime();
        if (!oldest.isAfter(from)) {
            return inMemory;
        }
        List<TagValue> all = new ArrayList<>(past.of(tag, plant.tag(tag), from, oldest));
        all.addAll(inMemory);
        return all;
    }

    private List<Line> lines(RecorderDefinition recorder, Rehearsal.Rehearsed rehearsed) {
        List<Line> lines = new ArrayList<>();
        for (Made made : rehearsed.rows()) {
            Line line = line(recorder, made);
            lines.add(
                    0,
                    new Line(
                            line.values().stream()
                                    .map(value -> value.equals(NEXT) ? "rehearsed" : value)
                                    .toList(),
                            line.reason()));
        }
        return lines;
    }

    public Line line(RecorderDefinition recorder, Made made) {
        List<String> values = new ArrayList<>();
        int written = 0;
        for (Column column : recorder.layout().columns()) {
            if (column.isAutoNumber()) {
                values.add(NEXT);
                continue;
            }
            if (made instanceof Made.Whole whole) {
                values.add(column.isRowId() ? "…" : shown.cell(whole.row().cells()[written]));
            } else {
                values.add(
                        made instanceof Made.Refused refused && !column.isRowId()
                                ? shown.cell(refused.values().get(written))
                                : column.isRowId() ? "…" : "");
            }
            written++;
        }
        String reason = made instanceof Made.Refused refused
                ? "set aside: " + refused.reason()
                : made instanceof Made.Skipped skipped ? "not written: " + skipped.reason() + "." : "";
        return new Line(values, reason);
    }

    private String volume(Rehearsal.Rehearsed rehearsed) {
        double perHour = rehearsed.rowsAnHour();
        if (perHour == 0) {
            return "no row in the last minutes";
        }
        String rows = perHour >= 1
                ? String.format(Locale.UK, "%,.0f rows an hour, %,.0f a day", perHour, perHour * 24)
                : String.format(Locale.UK, "%,.1f rows a day", perHour * 24);
        double bytesADay = perHour * 24 * rehearsed.bytesPerRow();
        if (bytesADay < 1) {
            return rows;
        }
        double days = engine.folder().toFile().getUsableSpace() / bytesADay;
        return rows + ", about " + size(bytesADay) + " a day; this disk would hold "
                + (days > 3650
                        ? "more than ten years"
                        : days >= 2
                                ? String.format(Locale.UK, "%,.0f days", days)
                                : String.format(Locale.UK, "%,.0f hours", days * 24))
                + " of them while the destination is away";
    }

    private static String size(double bytes) {
        return bytes < 1_000_000
                ? String.format(Locale.UK, "%,.0f kB", Math.max(1, bytes / 1000))
                : bytes < 1e9
                        ? String.format(Locale.UK, "%,.1f MB", bytes / 1e6)
                        : String.format(Locale.UK, "%,.1f GB", bytes / 1e9);
    }
}
