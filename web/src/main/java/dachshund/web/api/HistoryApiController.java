package dachshund.web.api;

import dachshund.core.aggregate.Aggregate;
import dachshund.core.aggregate.Method;
import dachshund.core.aggregate.Result;
import dachshund.core.aggregate.Samples;
import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagText;
import dachshund.core.time.OpcUaTime;
import dachshund.core.time.PeriodText;
import dachshund.core.window.Span;
import dachshund.core.window.WindowProblem;
import dachshund.engine.Engine;
import dachshund.office.archive.ByHand;
import dachshund.office.archive.Histories;
import dachshund.office.archive.Histories.History;
import dachshund.office.audit.Audit;
import dachshund.office.tag.TagFinder.FoundTag;
import dachshund.office.window.Windows;
import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.security.SecurityRequirement;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import org.springframework.http.MediaType;
import org.springframework.security.access.AccessDeniedException;
import org.springframework.security.core.Authentication;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** The archive for programs: values of a window, aggregates of it, and values of the past that come late. */
@RestController
@RequestMapping(path = "/api/v1/history", produces = MediaType.APPLICATION_JSON_VALUE)
@SecurityRequirement(name = "token")
class HistoryApiController {

    private static final int MOST = 10_000;
    private static final long TICKS_PER_MILLI = 10_000;

    private final NamedTags tags;
    private final Windows windows;
    private final Histories histories;
    private final ByHand byHand;
    private final Audit audit;
    private final Engine engine;

    /**
     * @param value     number, text, true or false; null where there is none
     * @param quality   good, uncertain or bad
     * @param words     what the quality says
     * @param goodShare of an aggregate: which part of its time is good, from 0 to 1; null of a value
     */
    public record Point(Instant time, Object value, String quality, String words, Double goodShare) {}

    /**
     * @param more whether there are more values than are given at once: ask for a shorter window
     */
    public record Past(Instant from, Instant to, boolean more, List<Point> points) {}

    /** A value of the past. */
    public record Late(String source, String address, Instant time, Object value, String why) {}

    /** What was there before, null where there was nothing. */
    public record Entered(Object was) {}

    HistoryApiController(
            NamedTags tags, Windows windows, Histories histories, ByHand byHand, Audit audit, Engine engine) {
        this.tags = tags;
        this.windows = windows;
        this.histories = histories;
        this.byHand = byHand;
        this.audit = audit;
        this.engine = engine;
    }

    @GetMapping
    @Operation(
            summary = "The history of a tag",
            description =
                    "window: such as last 1 h, yesterday, week 47, 2026-11-01 06:00 to 14:00. Without an aggregate every value, the oldest 10,000 at most. "
                            + "With one (its name in OPC 10000-13, such as TimeAverage2, or in words, such as time-weighted average) a point for each interval, such as 15 min.")
    Past history(
            @RequestParam String source,
            @RequestParam String address,
            @RequestParam(defaultValue = "last 1 h") String window,
            @RequestParam(defaultValue = "") String aggregate,
            @RequestParam(defaultValue = "") String interval)
            throws Problem {
        FoundTag tag = tags.find(source, address);
        Span span;
        try {
            span = windows.span(window);
        } catch (WindowProblem wrong) {
            throw new IllegalArgumentException(wrong.getMessage(), wrong);
        }
        return aggregate.isBlank() ? every(tag, span) : aggregated(tag, span, aggregate, interval);
    }

    private Past every(FoundTag tag, Span span) throws Problem {
        if (histories.count(tag.ref(), span.from(), span.to()) > Histories.AT_ONCE) {
            throw new IllegalArgumentException(
                    "That window has more than a million values. Ask for a shorter one, or for an aggregate.");
        }
        History history = histories.read(tag.ref(), span.from(), span.to());
        int count = history.count(span.from(), span.to());
        List<Point> points = history.newest(span.from(), span.to(), Math.max(0, count - MOST), MOST).stream()
                .map(value -> new Point(
                        value.sourceTime(),
                        value.value().orElse(null),
                        value.quality().grade().name().toLowerCase(Locale.ROOT),
                        value.quality().words(),
                        null))
                .toList();
        return new Past(span.from(), span.to(), count > MOST, points);
    }

    private Past aggregated(FoundTag tag, Span span, String name, String interval) throws Problem {
        Aggregate aggregate = Aggregate.read(name)
                .orElseThrow(() -> new IllegalArgumentException("There is no aggregate \"" + name + "\"."));
        if (!tag.info().kind().numeric()) {
            throw new IllegalArgumentException("Only numbers and yes/no have aggregates.");
        }
        long step = (interval.isBlank() ? span.length() : PeriodText.read(interval)).toMillis() * TICKS_PER_MILLI;
        long from = OpcUaTime.toTicks(span.from());
        long to = OpcUaTime.toTicks(span.to());
        if (step <= 0 || (to - from) / step >= MOST) {
            throw new IllegalArgumentException("Ask for at most " + MOST + " intervals.");
        }
        Method method = tag.info().kind() == DataKind.NUMBER ? Method.SLOPED : Method.STEPPED;
        List<Point> points = new ArrayList<>();
        histories.fold(tag.ref(), from, to, step, method, aggregate.parts(), fold -> {
            Result result = aggregate.of(fold, method);
            points.add(new Point(
                    OpcUaTime.toInstant(result.at()),
                    result.present() ? (Double) result.value() : null,
                    grade(result.grade()),
                    "",
                    result.goodShare()));
        });
        return new Past(span.from(), span.to(), false, points);
    }

    private static String grade(byte grade) {
        return grade == Samples.GOOD ? "good" : grade == Samples.UNCERTAIN ? "uncertain" : "bad";
    }

    @PostMapping
    @Operation(
            summary = "Enters a value of the past",
            description =
                    "A value that comes late, or takes the place of a wrong one; what was there before stays noted, with who and why. Needs the scope write-kept.")
    Entered enter(@RequestBody Late late, Authentication by) throws Problem {
        if (by.getAuthorities().stream()
                .noneMatch(authority -> authority.getAuthority().equals("SCOPE_write-kept"))) {
            throw new AccessDeniedException("SCOPE_write-kept");
        }
        if (late.time() == null || late.why() == null) {
            throw new IllegalArgumentException("time and why are missing.");
        }
        FoundTag tag = tags.find(late.source(), late.address());
        Optional<Object> value = late.value() == null
                ? Optional.empty()
                : Optional.of(TagText.read(tag.info().kind(), String.valueOf(late.value())));
        Optional<Object> was = byHand.enter(tag, late.time(), value, late.why(), by.getName());
        audit.note(
                by.getName(),
                "entered a value of the past",
                tag.source().name() + " / " + tag.info().fullName() + " at "
                        + late.time().atZone(engine.zone()).toOffsetDateTime() + ": "
                        + value.map(TagText::write).orElse("none") + " (was "
                        + was.map(Object::toString).orElse("none") + "): " + late.why());
        return new Entered(was.orElse(null));
    }
}
