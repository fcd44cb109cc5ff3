package dachshund.web.keeping;

import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.work.Progress;
import dachshund.office.archive.BroughtFiles;
import dachshund.office.archive.BroughtFiles.Brought;
import dachshund.office.archive.HistoryImport;
import dachshund.office.archive.HistoryImport.Review;
import dachshund.office.audit.Audit;
import dachshund.office.work.Work;
import dachshund.web.page.Shown;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.work.LongWork;
import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.security.Principal;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.multipart.MultipartFile;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** History brought in from a CSV file: read, reviewed beside what is there, and only then written. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/plant/history")
class BringInController {

    private static final String PAGE = "/plant/history";

    private final BroughtFiles files;
    private final HistoryImport history;
    private final LongWork longWork;
    private final Audit audit;
    private final Shown shown;

    BringInController(BroughtFiles files, HistoryImport history, LongWork longWork, Audit audit, Shown shown) {
        this.files = files;
        this.history = history;
        this.longWork = longWork;
        this.audit = audit;
        this.shown = shown;
    }

    @GetMapping
    String form(Model model) {
        model.addAttribute("text", "");
        return "keeping/bring-in";
    }

    @PostMapping
    String read(
            @RequestParam(defaultValue = "") String text,
            @RequestParam(required = false) MultipartFile file,
            Principal by,
            Model model,
            RedirectAttributes flash)
            throws IOException {
        boolean typed = file == null || file.isEmpty();
        if (typed && text.isBlank()) {
            model.addAttribute("text", text);
            model.addAttribute("problem", "Choose a file, or paste its text.");
            return "keeping/bring-in";
        }
        Brought brought;
        try (InputStream content =
                typed ? new ByteArrayInputStream(text.getBytes(StandardCharsets.UTF_8)) : file.getInputStream()) {
            brought = files.take(typed ? "pasted text" : String.valueOf(file.getOriginalFilename()), content);
        }
        return longWork.begin("Reading history", by, PAGE, flash, progress -> reviewed(brought, progress));
    }

    /** Says what a file would bring, as the end of long work. */
    Work.Outcome reviewed(Brought brought, Progress progress) throws Exception {
        try {
            Review review = history.review(brought.file(), progress);
            files.reviewed(brought.id(), review);
            return new Work.Outcome(
                    shown.count(review.all(), "value") + " can be brought in; nothing is written yet.",
                    review.all() > 0,
                    PAGE + "/" + brought.id());
        } catch (Problem | HistoryImport.Unreadable problem) {
            files.drop(brought.id());
            return new Work.Outcome(problem.getMessage() + " Nothing was written.", false, PAGE);
        }
    }

    @GetMapping("/{id}")
    String review(@PathVariable String id, Model model, RedirectAttributes flash) {
        Brought brought =
                files.find(id).filter(each -> each.review().isPresent()).orElse(null);
        if (brought == null) {
            flash.addFlashAttribute("problem", "This file is not here any more; bring it again.");
            return "redirect:" + PAGE;
        }
        model.addAttribute("brought", brought);
        model.addAttribute("review", brought.review().orElseThrow());
        return "keeping/brought";
    }

    @PostMapping("/{id}")
    String write(@PathVariable String id, Principal by, RedirectAttributes flash) {
        Brought brought = files.find(id).orElse(null);
        if (brought == null) {
            flash.addFlashAttribute("problem", "This file is not here any more; bring it again.");
            return "redirect:" + PAGE;
        }
        return longWork.begin(
                "Bringing history in",
                by,
                PAGE + "/" + id,
                flash,
                progress -> written(brought, by.getName(), progress));
    }

    private Work.Outcome written(Brought brought, String by, Progress progress) throws Exception {
        try {
            long values = history.write(brought.file(), progress);
            files.drop(brought.id());
            audit.note(by, "brought history in", brought.name() + ": " + values + " values");
            return new Work.Outcome(
                    shown.count(values, "value") + (values == 1 ? " is" : " are") + " in the archive now.",
                    true,
                    "/plant/keeping");
        } catch (Problem | HistoryImport.Unreadable problem) {
            return new Work.Outcome(
                    problem.getMessage()
                            + " What was written before stays; bring the file in again, and nothing is there twice.",
                    false,
                    PAGE + "/" + brought.id());
        }
    }

    @PostMapping("/{id}/drop")
    String drop(@PathVariable String id, RedirectAttributes flash) {
        files.drop(id);
        flash.addFlashAttribute("said", "Nothing was brought in.");
        return "redirect:" + PAGE;
    }
}
