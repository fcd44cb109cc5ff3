package dachshund.web.query;

import dachshund.core.destination.StoreProblem;
import dachshund.core.query.QueryDefinition;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.window.WindowProblem;
import dachshund.office.query.Asked;
import dachshund.office.query.Queries;
import dachshund.web.page.Shown;
import dachshund.web.people.RightsHeld;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.springframework.stereotype.Component;
import org.springframework.ui.Model;

/** One page of what a query gives, or why it gives nothing, at its place. */
@Component
class Answers {

    private static final int PAGE = 100;
    /** Rows in front of a page are read and passed over; who wants more of them takes a file. */
    private static final int MOST_PAGES = 1000;

    private static final int LETTERS = 200;

    private final Queries queries;
    private final Shown shown;

    /** @param millis how long the database took for it */
    public record Page(
            List<TableShape.Column> columns, List<List<String>> rows, int number, boolean more, long millis) {

        public long first() {
            return (number - 1L) * PAGE + 1;
        }
    }

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

    Answers(Queries queries, Shown shown) {
        this.queries = queries;
        this.shown = shown;
    }

    void show(QueryDefinition query, Map<String, String> typed, String window, int page, Model model) {
        try {
            Asked asked = queries.asked(query, typed, window, RightsHeld.standing());
            asked.span().ifPresent(span -> model.addAttribute("span", span));
            model.addAttribute("page", page(asked, Math.min(MOST_PAGES, Math.max(1, page))));
        } catch (QueryProblem problem) {
            model.addAttribute("refusal", problem.getMessage());
            String sql = queries.text(query.asks());
            if (problem.from() >= 0 && problem.from() <= sql.length()) {
                model.addAttribute("place", Place.of(sql, problem.from(), problem.to()));
            }
        } catch (WindowProblem problem) {
            model.addAttribute("refusal", problem.getMessage());
        } catch (StoreProblem problem) {
            model.addAttribute("refusal", problem.getMessage());
        }
    }

    private Page page(Asked asked, int number) throws StoreProblem, QueryProblem {
        List<TableShape.Column> columns = new ArrayList<>();
        List<List<String>> rows = new ArrayList<>();
        long skip = (number - 1L) * PAGE;
        long from = System.nanoTime();
        asked.give(TableReading.PAGE, skip + PAGE + 1, new TableReading.Taker() {
            private long passed;

            @Override
            public void columns(List<TableShape.Column> heads) {
                columns.addAll(heads);
            }

            @Override
            public boolean row(List<Object> cells) {
                if (passed++ >= skip) {
                    rows.add(cells.stream().map(Answers.this::cell).toList());
                }
                return true;
            }
        });
        boolean more = rows.size() > PAGE;
        return new Page(
                columns, more ? rows.subList(0, PAGE) : rows, number, more, (System.nanoTime() - from) / 1_000_000);
    }

    private String cell(Object cell) {
        String text = shown.cell(cell);
        return text.length() > LETTERS ? text.substring(0, LETTERS) + "…" : text;
    }
}
