package dachshund.web.shift;

import dachshund.core.definition.ShiftCalendarDefinition;
import dachshund.core.shift.Holiday;
import dachshund.core.shift.Shift;
import dachshund.core.shift.ShiftCalendar;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import java.security.Principal;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.format.DateTimeParseException;
import java.time.temporal.TemporalAdjusters;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** The shift calendar: one form, and the week drawn as it would be. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/plant/shifts")
class ShiftController {

    private static final int MOST_SHIFTS = 12;

    private final Definitions definitions;
    private final Drafts drafts;
    private final Engine engine;

    /** A shift as it is typed. */
    public record Line(int index, String name, String start, String end, Set<String> days) {}

    /** A shift in the drawn week: percent of a week from its Monday. */
    public record Bar(double x, double width, String name, String date, int tone) {}

    ShiftController(Definitions definitions, Drafts drafts, Engine engine) {
        this.definitions = definitions;
        this.drafts = drafts;
        this.engine = engine;
    }

    private ShiftCalendar calendar() {
        return definitions
                .find(ShiftCalendarDefinition.class, ShiftCalendarDefinition.ID)
                .map(ShiftCalendarDefinition::calendar)
                .orElse(ShiftCalendar.NONE);
    }

    @GetMapping
    String show(@RequestParam(defaultValue = "0") int more, Model model) {
        ShiftCalendar calendar = calendar();
        List<Line> lines = new ArrayList<>();
        calendar.shifts()
                .forEach(shift -> lines.add(new Line(
                        lines.size(),
                        shift.name(),
                        shift.start().toString(),
                        shift.end().toString(),
                        shift.days().stream().map(DayOfWeek::name).collect(Collectors.toSet()))));
        Set<String> all =
                java.util.Arrays.stream(DayOfWeek.values()).map(DayOfWeek::name).collect(Collectors.toSet());
        for (int i = 0; i < Math.max(lines.isEmpty() ? 1 : 0, Math.min(more, MOST_SHIFTS)); i++) {
            lines.add(new Line(lines.size(), "", "06:00", "14:00", all));
        }
        String holidays = calendar.holidays().stream()
                .map(holiday -> holiday.date() + " " + holiday.name())
                .collect(Collectors.joining("\n"));
        return page(model, lines, holidays, calendar.byBeginning(), calendar, List.of());
    }

    private String page(
            Model model,
            List<Line> lines,
            String holidays,
            boolean byBeginning,
            ShiftCalendar drawn,
            List<String> problems) {
        Instant now = engine.clock().now();
        model.addAttribute("lines", lines);
        model.addAttribute("holidays", holidays);
        model.addAttribute("byBeginning", byBeginning);
        model.addAttribute("problems", problems);
        model.addAttribute("seen", drafts.revision(ShiftCalendarDefinition.ID));
        model.addAttribute(
                "draft", definitions.draft(ShiftCalendarDefinition.ID).orElse(null));
        model.addAttribute("bars", bars(drawn, now));
        model.addAttribute("monday", monday(now));
        model.addAttribute("now", drawn.at(now, engine.zone()).orElse(null));
        return "shift/shifts";
    }

    private LocalDate monday(Instant now) {
        return now.atZone(engine.zone()).toLocalDate().with(TemporalAdjusters.previousOrSame(DayOfWeek.MONDAY));
    }

    private List<Bar> bars(ShiftCalendar calendar, Instant now) {
        LocalDate monday = monday(now);
        Instant from = monday.atStartOfDay(engine.zone()).toInstant();
        Instant to = monday.plusDays(7).atStartOfDay(engine.zone()).toInstant();
        double week = Duration.between(from, to).toMillis() / 100.0;
        List<String> names = calendar.shifts().stream().map(Shift::name).toList();
        return calendar.starting(monday.minusDays(1), monday.plusDays(6), engine.zone()).stream()
                .filter(worked -> worked.to().isAfter(from))
                .map(worked -> {
                    double start =
                            Math.max(0, Duration.between(from, worked.from()).toMillis() / week);
                    double end =
                            Math.min(100, Duration.between(from, worked.to()).toMillis() / week);
                    return new Bar(
                            start,
                            end - start,
                            worked.shift(),
                            worked.date().toString(),
                            names.indexOf(worked.shift()) % 3);
                })
                .toList();
    }

    @PostMapping
    String save(
            @RequestParam Map<String, String> form,
            @RequestParam(required = false) List<String> name,
            @RequestParam(required = false) List<String> start,
            @RequestParam(required = false) List<String> end,
            @RequestParam(required = false) List<String> day,
            @RequestParam(defaultValue = "") String holidays,
            @RequestParam(defaultValue = "true") boolean byBeginning,
            @RequestParam int seen,
            Principal by,
            Model model,
            RedirectAttributes flash) {
        if (name != null
                && (start == null || end == null || start.size() != name.size() || end.size() != name.size())) {
            throw new IllegalArgumentException("Each shift has a name, a start and an end.");
        }
        List<Line> lines = new ArrayList<>();
        List<Shift> shifts = new ArrayList<>();
        List<String> problems = new ArrayList<>();
        for (int i = 0; name != null && i < Math.min(name.size(), MOST_SHIFTS); i++) {
            String prefix = i + ":";
            Set<String> days = day == null
                    ? Set.of()
                    : day.stream()
                            .filter(each -> each.startsWith(prefix))
                            .map(each -> each.substring(prefix.length()))
                            .collect(Collectors.toSet());
            if (form.containsKey("remove-" + i)) {
                continue;
            }
            lines.add(new Line(
                    lines.size(),
                    name.get(i).strip(),
                    start.get(i).strip(),
                    end.get(i).strip(),
                    days));
            read(lines.get(lines.size() - 1), shifts, problems);
        }
        List<Holiday> free = holidays(holidays, problems);
        ShiftCalendar calendar = new ShiftCalendar(shifts, free, byBeginning);
        problems.addAll(calendar.problems());
        if (!problems.isEmpty()) {
            return page(model, lines, holidays, byBeginning, calendar(), problems);
        }
        drafts.edit(ShiftCalendarDefinition.of(calendar), seen, by.getName());
        flash.addFlashAttribute("said", "The shift calendar is drafted; recorders follow it from the next release on.");
        return "redirect:/plant/shifts" + (form.containsKey("more") ? "?more=1" : "");
    }

    private static void read(Line line, List<Shift> shifts, List<String> problems) {
        try {
            shifts.add(new Shift(
                    line.name(),
                    time(line.start()),
                    time(line.end()),
                    line.days().stream().map(DayOfWeek::valueOf).collect(Collectors.toSet())));
        } catch (DateTimeParseException notATime) {
            problems.add((line.name().isEmpty() ? "Shift " + (line.index() + 1) : line.name()) + ": \""
                    + notATime.getParsedString() + "\" is not a time of day. Write it such as 06:00.");
        }
    }

    private static LocalTime time(String text) {
        return LocalTime.parse(text.length() == 4 ? "0" + text : text);
    }

    private static List<Holiday> holidays(String text, List<String> problems) {
        List<Holiday> holidays = new ArrayList<>();
        for (String line :
                text.lines().map(String::strip).filter(line -> !line.isEmpty()).toList()) {
            try {
                LocalDate date = LocalDate.parse(line.split("\\s+", 2)[0]);
                holidays.add(new Holiday(date, line.substring(10).strip()));
            } catch (DateTimeParseException notADate) {
                problems.add(
                        "Holidays stand one a line with their date first, such as 2026-12-25 Christmas Day. This is not: "
                                + line);
            }
        }
        return holidays;
    }
}
