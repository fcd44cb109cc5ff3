package dachshund.web.watch;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.engine.Engine;
import dachshund.engine.count.CounterBook.Minute;
import dachshund.engine.lane.LaneState;
import dachshund.engine.lane.LaneStatus;
import dachshund.engine.local.SetAside;
import dachshund.engine.recorder.RecorderStatus;
import dachshund.engine.said.Said;
import dachshund.engine.transaction.TransactionStatus;
import dachshund.office.audit.Audit;
import dachshund.office.definition.Definitions;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import java.security.Principal;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.NoSuchElementException;
import java.util.Optional;
import java.util.TreeMap;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** The Watch workspace: what every recorder did in the last hour, and the minutes of one. */
@Needs(Right.RELEASE)
@Controller
class WatchController {

    private static final int PAGE = 100;
    private static final int MOST_SAID = 300;
    private static final int MOST_SET_ASIDE = 100;
    /** What so many recorders say alike is said once, above them. */
    private static final int SAID_ALIKE = 3;

    private final Definitions definitions;
    private final Engine engine;
    private final Audit audit;

    /**
     * One minute of a strip.
     *
     * @param tone  none, full, most, some or nothing: rows landed against what was due
     * @param words the same in words, for the hover and for those who do not see it
     */
    public record Cell(Instant start, String tone, boolean held, boolean setAside, boolean refused, String words) {}

    /**
     * What many recorders say in the same words, said once.
     *
     * @param destinations names of those that it is about; empty where it is about none
     * @param held         rows of these recorders that are held
     */
    public record Alike(String destinations, int recorders, long held) {}

    /** A transaction's line. */
    public record Business(
            TransactionStatus status, List<Cell> cells, long done, long failed, long dropped, Duration slowest) {}

    /** Triggers that wait on disk for a transaction that is not released any more. */
    public record Waiting(String id, String name, int triggers) {}

    /** A recorder's line. */
    public record Strip(RecorderStatus status, List<Cell> cells, long landed, Duration slowest) {}

    /**
     * Minutes one after the other in which the same became of as many rows.
     *
     * @param first and last: as they are shown, the newest first
     */
    public record Minutes(Minute first, Minute last, int minutes) {

        static List<Minutes> of(List<Minute> hour) {
            List<Minutes> all = new ArrayList<>();
            for (Minute each : hour) {
                Minutes before = all.isEmpty() ? null : all.get(all.size() - 1);
                if (before != null && before.last().sameAs(each)) {
                    all.set(all.size() - 1, new Minutes(before.first(), each, before.minutes() + 1));
                } else {
                    all.add(new Minutes(each, each, 1));
                }
            }
            return all;
        }
    }

    WatchController(Definitions definitions, Engine engine, Audit audit) {
        this.definitions = definitions;
        this.engine = engine;
        this.audit = audit;
    }

    @GetMapping("/watch")
    String watch(
            @RequestParam(defaultValue = "") String q, @RequestParam(defaultValue = "1") String page, Model model) {
        strips(q, page, model);
        return "watch/watch";
    }

    private List<Waiting> waiting() {
        return engine.transactions().waitingForNone().entrySet().stream()
                .filter(each -> definitions.live(each.getKey()).isEmpty())
                .map(each -> new Waiting(
                        each.getKey(),
                        definitions.find(each.getKey()).map(Definition::name).orElse("A transaction that is gone"),
                        each.getValue()))
                .toList();
    }

    /** What waits for a transaction that is not released any more is not done. */
    @PostMapping("/watch/waiting/{id}/discard")
    String discard(@PathVariable String id, Principal by, RedirectAttributes flash) {
        Waiting found = waiting().stream()
                .filter(each -> each.id().equals(id))
                .findFirst()
                .orElseThrow(() -> new IllegalArgumentException("Nothing waits there any more."));
        engine.transactions().discardWaiting(id);
        audit.note(by.getName(), "discarded triggers", found.triggers() + " of " + found.name() + " (" + id + ")");
        flash.addFlashAttribute("said", "Discarded. What they would have done is not done.");
        return "redirect:/watch";
    }

    /** A page of the recorders whose names have all of the words, those in trouble first. */
    @GetMapping("/watch/strips")
    String strips(
            @RequestParam(defaultValue = "") String q, @RequestParam(defaultValue = "1") String page, Model model) {
        Instant now = engine.clock().now();
        Map<String, RecorderStatus> all = engine.status();
        String[] words = q.toLowerCase(Locale.ROOT).strip().split("\\s+");
        List<RecorderStatus> found = all.values().stream()
                .filter(status -> {
                    String name = status.definition().name().toLowerCase(Locale.ROOT);
                    return Stream.of(words).allMatch(name::contains);
                })
                .toList();
        int pages = Math.max(1, (found.size() + PAGE - 1) / PAGE);
        int at = page.matches("\\d{1,6}") ? Math.max(1, Math.min(Integer.parseInt(page), pages)) : 1;
        model.addAttribute("q", q);
        model.addAttribute("page", at);
        model.addAttribute("pages", pages);
        model.addAttribute("found", found.size());
        model.addAttribute("total", all.size());
        model.addAttribute(
                "strips",
                found.stream()
                        .sorted(Comparator.comparing((RecorderStatus status) -> status.state() == LaneState.FAULTED
                                        ? 0
                                        : status.state() == LaneState.HOLDING ? 1 : 2)
                                .thenComparing(status -> status.definition().name(), String.CASE_INSENSITIVE_ORDER))
                        .skip((at - 1L) * PAGE)
                        .limit(PAGE)
                        .map(status -> strip(status, now))
                        .toList());
        model.addAttribute("waiting", waiting());
        model.addAttribute(
                "business",
                engine.transactions().all().stream()
                        .flatMap(each -> engine.transactions().status(each.id()).stream())
                        .filter(status -> {
                            String name = status.design().name().toLowerCase(Locale.ROOT);
                            return Stream.of(words).allMatch(name::contains);
                        })
                        .sorted(Comparator.comparing(status -> status.design().name(), String.CASE_INSENSITIVE_ORDER))
                        .limit(PAGE)
                        .map(status -> business(status, now))
                        .toList());
        model.addAttribute("alike", alike(all.values()));
        model.addAttribute(
                "sources",
                engine.sources().all().stream()
                        .sorted(Comparator.comparing(run -> run.definition().name()))
                        .toList());
        return "watch/watch :: strips";
    }

    /** Sentences that many recorders say, such as that their destination is away. */
    private Map<String, Alike> alike(Collection<RecorderStatus> all) {
        Map<String, List<RecorderStatus>> said = all.stream()
                .filter(status -> !status.sentence().isEmpty())
                .collect(Collectors.groupingBy(RecorderStatus::sentence, TreeMap::new, Collectors.toList()));
        said.values().removeIf(sayers -> sayers.size() < SAID_ALIKE);
        Map<String, Alike> alike = new TreeMap<>();
        said.forEach((sentence, sayers) -> alike.put(
                sentence,
                new Alike(
                        sayers.stream()
                                .flatMap(status -> status.lanes().stream())
                                .filter(lane -> lane.sentence().equals(sentence))
                                .map(LaneStatus::destination)
                                .distinct()
                                .flatMap(id -> definitions.destination(id).stream())
                                .map(DestinationDefinition::name)
                                .sorted()
                                .collect(Collectors.joining(", ")),
                        sayers.size(),
                        sayers.stream().mapToLong(RecorderStatus::held).sum())));
        return alike;
    }

    private Business business(TransactionStatus status, Instant now) {
        String id = status.design().id();
        List<Minute> hour = engine.book().hour(id, now);
        return new Business(
                status,
                hour.stream().map(WatchController::runs).toList(),
                hour.stream().mapToLong(Minute::landed).sum(),
                hour.stream().mapToLong(Minute::refused).sum(),
                hour.stream().mapToLong(Minute::skipped).sum(),
                engine.book().slowest(id, now));
    }

    private static Cell runs(Minute minute) {
        Cell cell = cell(minute, false);
        String words = minute.due() == 0
                ? "nothing due"
                : minute.landed() + " of " + minute.due() + " done"
                        + (minute.refused() > 0 ? ", " + minute.refused() + " failed" : "")
                        + (minute.skipped() > 0 ? ", " + minute.skipped() + " dropped" : "");
        return new Cell(cell.start(), cell.tone(), false, false, cell.refused(), words);
    }

    private Strip strip(RecorderStatus status, Instant now) {
        List<Minute> hour = engine.book().hour(status.definition().id(), now);
        return new Strip(
                status,
                hour.stream().map(minute -> cell(minute, status.held() > 0)).toList(),
                hour.stream().mapToLong(Minute::landed).sum(),
                engine.book().slowest(status.definition().id(), now));
    }

    /** @param holds else what has not landed is on its way, as it is meant to be, and no row is missed yet */
    private static Cell cell(Minute minute, boolean holds) {
        String tone = "none";
        long expected = holds ? minute.due() : minute.due() - minute.held();
        if (expected > 0) {
            double share = (double) minute.landed() / expected;
            tone = share >= 0.999 ? "full" : share >= 0.5 ? "most" : share > 0 ? "some" : "nothing";
        }
        String words = minute.due() == 0
                ? "nothing due"
                : minute.landed() + " of " + minute.due() + " rows landed"
                        + (minute.held() > 0
                                ? ", " + minute.held() + (holds ? " held or on their way" : " on their way")
                                : "")
                        + (minute.setAside() > 0 ? ", " + minute.setAside() + " set aside" : "")
                        + (minute.skipped() > 0 ? ", " + minute.skipped() + " skipped" : "")
                        + (minute.refused() > 0 ? ", " + minute.refused() + " could not be kept" : "");
        return new Cell(
                minute.start(), tone, holds && minute.held() > 0, minute.setAside() > 0, minute.refused() > 0, words);
    }

    @GetMapping("/watch/{id}")
    String one(@PathVariable String id, Model model) {
        Definition definition = definitions.live(id).orElseThrow();
        RecorderStatus status =
                Optional.ofNullable(engine.status().get(id)).orElseThrow(); // what is live may be no recorder
        List<SetAside> aside = engine.local().aside().newest(id, MOST_SET_ASIDE);
        Instant now = engine.clock().now();
        List<Minute> hour = engine.book().hour(id, now).stream()
                .filter(minute -> minute.due() > 0)
                .sorted(Comparator.comparing(Minute::start).reversed())
                .toList();
        model.addAttribute("recorder", definition);
        model.addAttribute("status", status);
        model.addAttribute("strip", strip(status, now));
        model.addAttribute("minutes", Minutes.of(hour));
        model.addAttribute("setAside", aside);
        model.addAttribute(
                "setAsideEver",
                status.lanes().stream()
                        .mapToLong(lane -> lane.account().aside())
                        .sum());
        model.addAttribute(
                "columns",
                ((RecorderDefinition) definition)
                        .layout().written().stream()
                                .map(column -> column.name())
                                .toList());
        model.addAttribute(
                "names",
                definitions.all(DestinationDefinition.class).stream()
                        .collect(Collectors.toMap(Definition::id, Definition::name)));
        model.addAttribute("lines", said(id, status));
        model.addAttribute(
                "remarks",
                status.lanes().stream()
                        .flatMap(lane -> engine.writer(lane.destination()).stream())
                        .flatMap(writer -> writer.journalRemarks().stream())
                        .distinct()
                        .toList());
        return "watch/recorder";
    }

    /** What the recorder, its lanes and their destinations said, together, newest first; what two say alike once. */
    private List<Said.Line> said(String id, RecorderStatus status) {
        List<Said.Line> own = Stream.concat(
                        engine.recorders().said(id).stream(),
                        status.lanes().stream()
                                .flatMap(lane -> engine.writer(lane.destination()).stream())
                                .flatMap(writer -> writer.said(id).stream()))
                .toList();
        Stream<Said.Line> theirs = status.lanes().stream()
                .flatMap(lane -> engine.writer(lane.destination()).stream())
                .flatMap(writer -> writer.said().stream())
                .filter(line -> own.stream().noneMatch(each -> each.words().endsWith(line.words())));
        return Stream.concat(own.stream(), theirs)
                .sorted(Comparator.comparing(Said.Line::at).reversed())
                .limit(MOST_SAID)
                .toList();
    }

    /** Everything that stands in the recorder's way is tried now. */
    @PostMapping("/watch/{id}/look-again")
    String lookAgain(@PathVariable String id, RedirectAttributes flash) {
        List<String> asked = engine.lanes().stream()
                .filter(lane -> lane.recorder().equals(id))
                .map(LaneStatus::destination)
                .toList();
        if (asked.isEmpty()) {
            throw new NoSuchElementException(id);
        }
        asked.forEach(engine::lookAgain);
        flash.addFlashAttribute("said", "Its destinations are asked now.");
        return "redirect:/watch/" + (engine.status().containsKey(id) ? id : "held");
    }
}
