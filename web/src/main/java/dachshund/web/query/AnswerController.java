package dachshund.web.query;

import dachshund.core.destination.StoreProblem;
import dachshund.core.reader.QueryProblem;
import dachshund.office.audit.Audit;
import dachshund.office.export.Exports;
import dachshund.office.export.FileFormat;
import dachshund.office.query.KeptAnswer;
import dachshund.office.query.KeptAnswers;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.security.Principal;
import java.util.List;
import java.util.Optional;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseBody;

/** An answer that comes: how far it is, any part of its rows, and its end before its time. Seen by whoever asked alone. */
@Needs(Right.SEE)
@Controller
@RequestMapping("/review/answers/{id}")
class AnswerController {

    private static final int MOST = 400;

    private final KeptAnswers kept;
    private final Answers answers;
    private final Exports exports;
    private final Audit audit;

    /** @param count how many rows there are so far */
    public record Part(long count, boolean done, List<List<String>> rows) {}

    AnswerController(KeptAnswers kept, Answers answers, Exports exports, Audit audit) {
        this.kept = kept;
        this.answers = answers;
        this.exports = exports;
        this.audit = audit;
    }

    /** All of it again, while nothing of it is there yet. */
    @PostMapping("/again")
    String again(@PathVariable String id, @RequestParam(defaultValue = "") String sql, Principal by, Model model) {
        kept.find(id, by.getName()).ifPresentOrElse(found -> answers.show(found, sql, model), () -> gone(model));
        return "query/rows :: rows";
    }

    /** How far it is. */
    @GetMapping
    String standing(@PathVariable String id, Principal by, Model model) {
        Optional<KeptAnswer> found = kept.find(id, by.getName());
        if (found.isEmpty()) {
            gone(model);
        } else {
            answers.show(found.get(), "", model);
        }
        return "query/rows :: standing";
    }

    private static void gone(Model model) {
        model.addAttribute("refusal", "This answer is not kept any more. Ask again.");
    }

    @GetMapping("/rows.json")
    @ResponseBody
    Part rows(
            @PathVariable String id,
            @RequestParam(defaultValue = "0") long from,
            @RequestParam(defaultValue = "100") int most,
            Principal by) {
        return kept.find(id, by.getName())
                .map(found -> new Part(
                        found.count(),
                        found.done(),
                        answers.part(found, Math.max(0, from), Math.max(0, Math.min(MOST, most)))))
                .orElse(new Part(0, true, List.of()));
    }

    /** All of it as a file, also what is still to come: the database is not asked again. */
    @GetMapping("/rows.{ending:csv|jsonl|xlsx|parquet}")
    void file(@PathVariable String id, @PathVariable String ending, Principal by, HttpServletResponse response)
            throws StoreProblem, QueryProblem, IOException {
        KeptAnswer answer = kept.find(id, by.getName())
                .orElseThrow(() -> new IllegalArgumentException("This answer is not kept any more. Ask again."));
        FileFormat format = FileFormat.of(ending).orElseThrow();
        String name = answer.name().isBlank() ? "Query" : answer.name();
        audit.note(by.getName(), "took a file of a query", name + " as " + format.words());
        response.setContentType(format.mediaType());
        response.setHeader(
                "Content-Disposition",
                "attachment; filename=\"" + name.replaceAll("[^A-Za-z0-9._-]", "_") + "." + ending + "\"");
        exports.write(answer::give, format, response.getOutputStream());
    }

    @PostMapping("/cancel")
    String cancel(@PathVariable String id, Principal by, Model model) {
        kept.cancel(id, by.getName());
        kept.find(id, by.getName()).ifPresent(found -> found.await(2000));
        return standing(id, by, model);
    }
}
