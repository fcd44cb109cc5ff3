package dachshund.web.query;

import dachshund.core.destination.StoreProblem;
import dachshund.core.query.QueryDefinition;
import dachshund.core.reader.QueryProblem;
import dachshund.core.window.WindowProblem;
import dachshund.office.export.FileFormat;
import dachshund.office.query.KeptAnswer;
import dachshund.office.query.KeptAnswers;
import dachshund.office.query.Queries;
import dachshund.web.page.Shown;
import dachshund.web.people.RightsHeld;
import java.io.IOException;
import java.util.List;
import java.util.Map;
import org.springframework.stereotype.Component;
import org.springframework.ui.Model;

/** One page of what a query gives, or why it gives nothing, at its place. */
@Component
class Answers {

    /** So many rows are on a page at first; others come as one scrolls. */
    private static final int PAGE = 100;
    /** So long a page waits before it says that rows are still to come. */
    private static final long PATIENCE_MILLIS = 700;

    private static final int LETTERS = 200;

    private final Queries queries;
    private final KeptAnswers kept;
    private final Shown shown;

    /** A text around a place: what stands before it in its line, the place itself, and what follows. */
    public record Place(String before, String here, String after, int line) {

        static Place of(String text, int from, int to) {
            int begin = text.lastIndexOf('\n', Math.max(0, from - 1)) + 1;
            int start = Math.min(begin, from);
            int end = text.indexOf('\n', from);
            int until = end < 0 ? text.length() : end;
            int last = Math.max(from, Math.min(to, until));
            return new Place(
                    text.substring(start, from),
                    text.substring(from, last),
                    text.substring(last, Math.max(last, until)),
                    1
                            + (int) text.substring(0, from)
                                    .chars()
                                    .filter(each -> each == '\n')
                                    .count());
        }
    }

    Answers(Queries queries, KeptAnswers kept, Shown shown) {
        this.queries = queries;
        this.kept = kept;
        this.shown = shown;
    }

    /** Asks it, and shows what is there of the answer so far. */
    void show(QueryDefinition query, Map<String, String> typed, String window, String by, Model model) {
        model.addAttribute("sqlText", queries.text(query.asks()));
        try {
            KeptAnswer answer = kept.ask(queries.asked(query, typed, window, RightsHeld.standing()), query.name(), by);
            answer.await(PATIENCE_MILLIS);
            show(answer, queries.text(query.asks()), model);
        } catch (QueryProblem | WindowProblem | StoreProblem problem) {
            refused(problem, queries.text(query.asks()), model);
        }
    }

    /** How far an answer is by now. */
    void show(KeptAnswer answer, String sql, Model model) {
        boolean done = answer.done();
        answer.span().ifPresent(span -> model.addAttribute("span", span));
        model.addAttribute("answer", answer);
        model.addAttribute("files", FileFormat.values());
        model.addAttribute("done", done);
        model.addAttribute("count", answer.count());
        model.addAttribute("columns", answer.columns());
        model.addAttribute("sqlText", sql);
        if (answer.count() > 0 || done && answer.trouble().isEmpty()) {
            model.addAttribute("rows", part(answer, 0, PAGE));
        }
        answer.trouble().ifPresent(trouble -> refused(trouble, sql, model));
    }

    /** Some of its rows, as they are shown; what cannot be read any more is none. */
    List<List<String>> part(KeptAnswer answer, long from, int most) {
        try {
            return answer.part(from, most).stream()
                    .map(row -> row.stream().map(this::cell).toList())
                    .toList();
        } catch (IOException gone) {
            return List.of();
        }
    }

    private static void refused(Exception trouble, String sql, Model model) {
        model.addAttribute("refusal", trouble.getMessage());
        if (trouble instanceof QueryProblem problem && problem.from() >= 0 && problem.from() <= sql.length()) {
            model.addAttribute("place", Place.of(sql, problem.from(), problem.to()));
        }
    }

    private String cell(Object cell) {
        String text = shown.cell(cell);
        return text.length() > LETTERS ? text.substring(0, LETTERS) + "…" : text;
    }
}
