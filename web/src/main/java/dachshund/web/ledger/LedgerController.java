package dachshund.web.ledger;

import dachshund.core.definition.Definition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.ledger.Run;
import dachshund.core.ledger.RunDays;
import dachshund.core.text.SafeCell;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.window.Span;
import dachshund.core.window.WindowProblem;
import dachshund.engine.Engine;
import dachshund.engine.ledger.Happenings;
import dachshund.engine.ledger.RunDocument;
import dachshund.office.audit.Audit;
import dachshund.office.definition.Definitions;
import dachshund.office.ledger.LedgerTable;
import dachshund.office.ledger.LedgerTable.Numbered;
import dachshund.office.ledger.LedgerTable.Wanted;
import dachshund.office.window.Windows;
import dachshund.web.page.CsvDownload;
import dachshund.web.page.ThingPages;
import dachshund.web.page.Times;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import de.siegmar.fastcsv.writer.CsvWriter;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.io.OutputStreamWriter;
import java.io.UncheckedIOException;
import java.io.Writer;
import java.nio.charset.StandardCharsets;
import java.security.Principal;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** The ledger: every run, found by time, thing, outcome and keys, and within a day by any value in it. */
@Needs(Right.SEE)
@Controller
@RequestMapping("/watch/ledger")
class LedgerController {

    private static final int PAGE = 50;
    private static final int AT_ONCE = 1000;
    private static final Duration DAY = Duration.ofHours(25);
    private static final Duration DAYS_SHOWN = Duration.ofDays(14);
    private static final int MOST_OF_DAYS = 200_000;
    private static final int MOST_REASONS = 8;

    private final LedgerTable ledger;
    private final Definitions definitions;
    private final Windows windows;
    private final Engine engine;
    private final Times times;
    private final Audit audit;
    private final ThingPages pages;

    LedgerController(
            LedgerTable ledger,
            Definitions definitions,
            Windows windows,
            Engine engine,
            Times times,
            Audit audit,
            ThingPages pages) {
        this.ledger = ledger;
        this.definitions = definitions;
        this.windows = windows;
        this.engine = engine;
        this.times = times;
        this.audit = audit;
        this.pages = pages;
    }

    /** What can be looked for by name: transactions, recorders whose rows are found by keys, and whatever is looked for. */
    private List<Definition> things(String asked) {
        List<Definition> all = new ArrayList<>(definitions.all(TransactionDefinition.class));
        definitions.all(RecorderDefinition.class).stream()
                .filter(each -> !each.keys().isEmpty() || each.id().equals(asked))
                .forEach(all::add);
        return all;
    }

    /**
     * What is looked for, as it is typed.
     *
     * @param key   a value that runs are found by
     * @param text  anything that stands in a run
     * @param after number of the last run of the page before
     */
    public record Asked(String window, String thing, String outcome, String key, String text, String after) {

        public Asked {
            window = plain(window).isEmpty() ? "last 24 h" : plain(window);
            thing = plain(thing);
            outcome = plain(outcome);
            key = plain(key);
            text = plain(text);
            after = plain(after);
        }

        private static String plain(String text) {
            return text == null ? "" : text.strip();
        }

        Wanted wanted(Span span, int most) {
            Optional<Run.Outcome> of = Arrays.stream(Run.Outcome.values())
                    .filter(each -> each.name().equals(outcome))
                    .findFirst();
            long before = after.matches("\\d{1,18}") ? Long.parseLong(after) : Long.MAX_VALUE;
            return new Wanted(span.from(), span.to(), thing, of, key, before, most);
        }
    }

    @GetMapping
    String list(Asked asked, Model model) {
        model.addAttribute("asked", asked);
        model.addAttribute("things", things(asked.thing()));
        model.addAttribute("release", Happenings.RELEASE);
        model.addAttribute("outcomes", Run.Outcome.values());
        model.addAttribute("waiting", engine.ledger().waiting());
        model.addAttribute("ledgerTrouble", engine.ledger().trouble());
        model.addAttribute("missing", engine.ledger().missing());
        try {
            Span span = windows.span(asked.window());
            List<Numbered> found = new ArrayList<>();
            find(asked, span, PAGE + 1, found::add);
            model.addAttribute("more", found.size() > PAGE ? found.get(PAGE - 1).nth() : 0);
            model.addAttribute("runs", found.subList(0, Math.min(PAGE, found.size())));
        } catch (WindowProblem | IllegalArgumentException problem) {
            model.addAttribute("trouble", problem.getMessage());
        } catch (DataAccessException away) {
            model.addAttribute(
                    "trouble", "Our own database does not answer, and runs stand there. Those that come wait on disk.");
        }
        return "ledger/ledger";
    }

    private void find(Asked asked, Span span, int most, Consumer<Numbered> taker) {
        Wanted wanted = asked.wanted(span, most);
        if (asked.text().isEmpty()) {
            ledger.find(wanted).forEach(taker);
            return;
        }
        if (span.length().compareTo(DAY) > 0) {
            throw new IllegalArgumentException(
                    "Anything that stands in a run is looked for within a day; say a shorter window, or look by a key.");
        }
        ledger.everywhere(wanted, asked.text(), each -> {
            taker.accept(each);
            return true;
        });
    }

    /** How the runs of one thing went over the last days: a part of its page, which does not wait for it. */
    @GetMapping("/days")
    String days(@RequestParam String thing, Model model) {
        Instant from = engine.clock().now().minus(DAYS_SHOWN);
        model.addAttribute("thing", thing);
        try {
            List<RunDays.Day> days = RunDays.of(ledger.ended(thing, from, MOST_OF_DAYS), engine.zone());
            model.addAttribute("days", days);
            model.addAttribute(
                    "widest",
                    days.stream()
                            .mapToInt(day -> day.done() + day.failed())
                            .max()
                            .orElse(1));
            model.addAttribute("reasons", ledger.reasons(thing, from, MOST_REASONS));
        } catch (DataAccessException away) {
            model.addAttribute("daysTrouble", "Our own database does not answer, and runs stand there.");
        }
        return "ledger/days :: days";
    }

    @GetMapping("/{id}")
    String run(@PathVariable String id, Model model) {
        try {
            Optional<Run> run = ledger.find(id);
            model.addAttribute("run", run.orElse(null));
            model.addAttribute(
                    "there",
                    run.flatMap(each -> definitions.find(TransactionDefinition.class, each.thing()))
                            .isPresent());
            run.flatMap(each -> definitions.find(each.thing())).ifPresent(thing -> {
                model.addAttribute("thingPage", pages.of(thing));
                model.addAttribute("thingWords", thing.kind().words().toLowerCase(Locale.ROOT));
            });
        } catch (DataAccessException away) {
            model.addAttribute("trouble", "Our own database does not answer, and runs stand there.");
        }
        return "ledger/run";
    }

    /** The same once more, as the transaction is released now. */
    @Needs(Right.RELEASE)
    @PostMapping("/{id}/again")
    String again(
            @PathVariable String id,
            @RequestParam(defaultValue = "false") boolean old,
            Principal by,
            RedirectAttributes flash) {
        try {
            Run run = ledger.find(id).orElseThrow(() -> new IllegalArgumentException("There is no such run any more."));
            if (old) {
                engine.transactions().again(run, by.getName());
            } else {
                engine.transactions().byHand(run.thing(), by.getName(), Map.of());
            }
            audit.note(by.getName(), "ran a transaction again", run.name() + ", run " + run.id());
            flash.addFlashAttribute("said", "It is begun, as it is released. The ledger shows how it ends.");
        } catch (IllegalArgumentException no) {
            flash.addFlashAttribute("problem", no.getMessage());
        } catch (DataAccessException away) {
            flash.addFlashAttribute("problem", "Our own database does not answer, and runs stand there.");
        }
        return "redirect:/watch/ledger/" + id;
    }

    @GetMapping("/runs.csv")
    void csv(Asked asked, Principal by, HttpServletResponse response) throws IOException, WindowProblem {
        audit.note(by.getName(), "took a file of the ledger", asked.window());
        CsvWriter csv = CsvDownload.open(response, "ledger.csv");
        csv.writeRecord(
                "id",
                "fired (UTC)",
                "fired (" + times.zone() + ")",
                "transaction",
                "why",
                "request",
                "outcome",
                "milliseconds",
                "tries",
                "reason",
                "code",
                "text",
                "answer",
                "keys");
        all(
                asked,
                run -> csv.writeRecord(
                        run.id(),
                        run.fired().toString(),
                        times.full(run.fired()),
                        SafeCell.out(run.name()),
                        SafeCell.out(run.why()),
                        SafeCell.out(run.request()),
                        run.outcome().words(),
                        Long.toString(run.millis()),
                        Integer.toString(run.tries()),
                        SafeCell.out(run.reason()),
                        Long.toString(run.code()),
                        SafeCell.out(run.text()),
                        SafeCell.out(run.answered()),
                        SafeCell.out(run.keys().entrySet().stream()
                                .map(each -> each.getKey() + "=" + each.getValue())
                                .collect(Collectors.joining("; ")))));
        csv.flush();
    }

    @GetMapping("/runs.jsonl")
    void lines(Asked asked, Principal by, HttpServletResponse response) throws IOException, WindowProblem {
        audit.note(by.getName(), "took a file of the ledger", asked.window());
        response.setContentType("application/jsonl;charset=UTF-8");
        response.setHeader("Content-Disposition", "attachment; filename=\"ledger.jsonl\"");
        Writer out = new OutputStreamWriter(response.getOutputStream(), StandardCharsets.UTF_8);
        all(asked, run -> {
            try {
                out.write(RunDocument.write(run));
                out.write('\n');
            } catch (IOException gone) {
                throw new UncheckedIOException(gone);
            }
        });
        out.flush();
    }

    /** Every run that is looked for, some at a time. */
    private void all(Asked asked, Consumer<Run> taker) throws WindowProblem {
        Span span = windows.span(asked.window());
        if (!asked.text().isEmpty()) {
            find(asked, span, Integer.MAX_VALUE, each -> taker.accept(each.run()));
            return;
        }
        Asked next = asked;
        while (true) {
            List<Numbered> found = ledger.find(next.wanted(span, AT_ONCE));
            found.forEach(each -> taker.accept(each.run()));
            if (found.size() < AT_ONCE) {
                return;
            }
            next = new Asked(
                    asked.window(),
                    asked.thing(),
                    asked.outcome(),
                    asked.key(),
                    "",
                    Long.toString(found.get(AT_ONCE - 1).nth()));
        }
    }
}
