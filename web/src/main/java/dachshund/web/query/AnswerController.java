package dachshund.web.query;

import dachshund.office.query.KeptAnswer;
import dachshund.office.query.KeptAnswers;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
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

    /** @param count how many rows there are so far */
    public record Part(long count, boolean done, List<List<String>> rows) {}

    AnswerController(KeptAnswers kept, Answers answers) {
        this.kept = kept;
        this.answers = answers;
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

    @PostMapping("/cancel")
    String cancel(@PathVariable String id, Principal by, Model model) {
        kept.cancel(id, by.getName());
        kept.find(id, by.getName()).ifPresent(found -> found.await(2000));
        return standing(id, by, model);
    }
}
