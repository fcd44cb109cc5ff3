package dachshund.web.trail;

import dachshund.core.audit.AuditEntry;
import dachshund.office.audit.Audit;
import dachshund.web.page.CsvDownload;
import dachshund.web.page.Times;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.trail.AuditSearch.Wanted;
import de.siegmar.fastcsv.writer.CsvWriter;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.util.List;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.ModelAttribute;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** The audit for people: searched, filtered, taken out, and walked along. */
@Needs(Right.READ_AUDIT)
@Controller
@RequestMapping("/people/audit")
class AuditController {

    private static final int PAGE = 100;

    private final Audit audit;
    private final AuditSearch search;
    private final Times times;

    AuditController(Audit audit, AuditSearch search, Times times) {
        this.audit = audit;
        this.search = search;
        this.times = times;
    }

    @ModelAttribute("wanted")
    Wanted wanted(
            @RequestParam(defaultValue = "") String words,
            @RequestParam(defaultValue = "") String who,
            @RequestParam(defaultValue = "") String what,
            @RequestParam(defaultValue = "") String from,
            @RequestParam(defaultValue = "") String to) {
        return new Wanted(words, who, what, from, to);
    }

    @Needs(Right.READ_AUDIT)
    @GetMapping
    String list(@ModelAttribute("wanted") Wanted wanted, @RequestParam(defaultValue = "0") long before, Model model) {
        List<AuditEntry> found = List.of();
        try {
            found = search.find(wanted, before, PAGE + 1);
        } catch (IllegalArgumentException problem) {
            model.addAttribute("fieldProblem", problem.getMessage());
        }
        model.addAttribute("entries", found.subList(0, Math.min(PAGE, found.size())));
        model.addAttribute("older", found.size() > PAGE ? found.get(PAGE - 1).number() : 0);
        model.addAttribute("before", before);
        model.addAttribute("people", search.people());
        model.addAttribute("deeds", search.deeds());
        model.addAttribute("checked", audit.checked());
        model.addAttribute("waiting", audit.waiting());
        model.addAttribute("inLogAlone", audit.inLogAlone());
        return "people/audit";
    }

    @PostMapping("/check")
    String check(RedirectAttributes flash) {
        Audit.Checked checked = audit.check();
        flash.addFlashAttribute(
                checked.broken().isEmpty() ? "said" : "problem",
                checked.broken().isEmpty()
                        ? "All " + checked.entries() + " entries are as they were written."
                        : "The audit is not whole. " + checked.broken());
        return "redirect:/people/audit";
    }

    /** Times in UTC as in RFC 3339 and in plant time; with the checksums, oldest first. */
    @Needs(Right.READ_AUDIT)
    @GetMapping("/audit.csv")
    void csv(@ModelAttribute("wanted") Wanted wanted, HttpServletResponse response) throws IOException {
        search.find(wanted, 0, 1); // what cannot be read is refused before the file begins
        CsvWriter csv = CsvDownload.open(response, "audit.csv");
        csv.writeRecord("number", "at (UTC)", "at (" + times.zone() + ")", "who", "what", "detail", "checksum");
        search.each(
                wanted,
                (entry, sum) -> csv.writeRecord(
                        Long.toString(entry.number()),
                        entry.at().toString(),
                        times.fine(entry.at()),
                        entry.who(),
                        entry.what(),
                        entry.detail(),
                        sum));
        csv.flush();
    }
}
