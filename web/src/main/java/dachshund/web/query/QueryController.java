package dachshund.web.query;

import dachshund.core.definition.Definition;
import dachshund.core.definition.Named;
import dachshund.core.destination.StoreProblem;
import dachshund.core.keep.Selection;
import dachshund.core.query.DesignedQuery;
import dachshund.core.query.QueryDefinition;
import dachshund.core.query.TagHistory;
import dachshund.core.query.WrittenQuery;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.TableReading;
import dachshund.core.tag.TagRef;
import dachshund.core.window.WindowProblem;
import dachshund.office.audit.Audit;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.export.Exports;
import dachshund.office.export.FileFormat;
import dachshund.office.filing.LatelyUsed;
import dachshund.office.query.Asked;
import dachshund.office.query.Queries;
import dachshund.web.design.DesignLists;
import dachshund.web.design.Removal;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.people.RightsHeld;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.security.Principal;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Collectors;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.util.MultiValueMap;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/**
 * Saved queries: written and tried by whoever designs, asked by everybody once they are released.
 */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/review/queries")
class QueryController {

    private static final String PAGE = "/review/queries";
    private static final String VALUE = "v-";

    private final Definitions definitions;
    private final Drafts drafts;
    private final Removal removal;
    private final QueryForms forms;
    private final Queries queries;
    private final Answers answers;
    private final Exports exports;
    private final Audit audit;
    private final DesignLists lists;
    private final LatelyUsed lately;

    QueryController(
            Definitions definitions,
            Drafts drafts,
            Removal removal,
            QueryForms forms,
            Queries queries,
            Answers answers,
            Exports exports,
            Audit audit,
            DesignLists lists,
            LatelyUsed lately) {
        this.definitions = definitions;
        this.drafts = drafts;
        this.removal = removal;
        this.forms = forms;
        this.queries = queries;
        this.answers = answers;
        this.exports = exports;
        this.audit = audit;
        this.lists = lists;
        this.lately = lately;
    }

    @GetMapping
    String list(DesignLists.Asked asked, Model model) {
        lists.show(asked.query("QUERY"), model);
        return "query/queries";
    }

    /** Which of them no longer fit what they ask: each is looked at by itself, once its line is shown. */
    @Needs(Right.DESIGN)
    @GetMapping("/check")
    String check(Model model) {
        List<QueryDefinition> all = definitions.all(QueryDefinition.class);
        model.addAttribute("all", all);
        model.addAttribute(
                "users",
                all.stream().collect(Collectors.toMap(QueryDefinition::id, each -> definitions.users(each.id()))));
        return "query/check";
    }

    @Needs(Right.DESIGN)
    @GetMapping("/{id}/fits")
    String fits(@PathVariable String id, Model model) {
        model.addAttribute(
                "trouble", queries.trouble(query(id), RightsHeld.standing()).orElse(""));
        return "query/check :: fits";
    }

    /** As whoever designs has it; as it is released for others. */
    private QueryDefinition query(String id) {
        return definitions
                .find(RightsHeld.standing(), QueryDefinition.class, id)
                .orElseThrow(() -> new IllegalArgumentException("This query is not there any more."));
    }

    @Needs(Right.DESIGN)
    @GetMapping("/new")
    String fresh(
            @RequestParam(defaultValue = "LINES") String way,
            @RequestParam(defaultValue = "") String database,
            @RequestParam(defaultValue = "") String sql,
            Model model) {
        QueryDefinition begun =
                forms.begun(sql.isEmpty() ? QueryForm.Way.named(way) : QueryForm.Way.SQL, database, sql);
        // Tags that were ticked in their list.
        if (begun.asks() instanceof TagHistory history && model.getAttribute("tags") instanceof List<?> ticked) {
            begun = begun.asking(history.about(
                    Selection.ticked(ticked.stream().map(TagRef.class::cast).toList())));
        }
        return design(begun, 0, Map.of(), model);
    }

    @GetMapping("/{id}")
    String page(@PathVariable String id, @RequestParam Map<String, String> all, Principal by, Model model) {
        QueryDefinition query = query(id);
        lately.opened(by.getName(), id);
        if (RightsHeld.has(Right.DESIGN) && !all.containsKey("asked")) {
            model.addAttribute("users", definitions.users(id));
            return design(query, drafts.revision(id), Map.of(), model);
        }
        model.addAttribute("query", query);
        model.addAttribute("typed", typed(all));
        model.addAttribute("window", all.getOrDefault("window", query.window()));
        model.addAttribute("asks", asks(query));
        return "query/asked";
    }

    /** What is asked, for whoever wants to know. */
    private String asks(QueryDefinition query) {
        return query.asks() instanceof WrittenQuery written
                ? written.sql()
                : query.asks().words(new Named(named(), named()));
    }

    private Map<String, Definition> named() {
        return definitions.drafted().stream().collect(Collectors.toMap(Definition::id, each -> each));
    }

    private String design(QueryDefinition query, int seen, Map<String, String> problems, Model model) {
        forms.show(query, model);
        model.addAttribute("ways", QueryForm.Way.values());
        model.addAttribute("seen", seen);
        model.addAttribute("problems", problems);
        return "query/query";
    }

    /** Its lines after one of them was changed. */
    @Needs(Right.DESIGN)
    @PostMapping("/lines")
    String lines(@RequestParam MultiValueMap<String, String> all, Model model) {
        QueryForm form = new QueryForm(all);
        try {
            forms.show(forms.edited(form), model);
        } catch (IllegalArgumentException no) {
            return refused(no, model);
        }
        return "query/lines :: lines";
    }

    /** What stands beside its lines, while one types. */
    @Needs(Right.DESIGN)
    @PostMapping("/beside")
    String beside(@RequestParam MultiValueMap<String, String> all, Model model) {
        try {
            forms.beside(forms.quick(new QueryForm(all)), model);
        } catch (IllegalArgumentException no) {
            model.addAttribute("lacking", no.getMessage());
            model.addAttribute("query", forms.begun(QueryForm.Way.SQL, "", ""));
            model.addAttribute("way", QueryForm.Way.LINES.name());
        }
        return "query/lines :: beside";
    }

    /** What was typed stays as it is, and what is wrong with it is said. */
    private static String refused(IllegalArgumentException no, Model model) {
        model.addAttribute("refusal", no.getMessage());
        return "query/query :: refused";
    }

    /** Lines as the SQL that they are; there is no way back. */
    @Needs(Right.DESIGN)
    @PostMapping("/as-sql")
    String asSql(@RequestParam MultiValueMap<String, String> all, Model model) {
        QueryForm form = new QueryForm(all);
        QueryDefinition query = forms.query(form);
        if (query.asks() instanceof DesignedQuery designed) {
            try {
                query = queries.sql(designed).written(query, designed.in());
                model.addAttribute("said", "It is SQL now, and lines are not made of it again. Nothing is saved yet.");
            } catch (QueryProblem lacking) {
                model.addAttribute("problem", lacking.getMessage());
            }
        }
        return design(query, seen(form), Map.of(), model);
    }

    private static int seen(QueryForm form) {
        return form.text("seen").matches("\\d{1,9}") ? Integer.parseInt(form.text("seen")) : 0;
    }

    /** Asks what the form has now, saved or not. */
    @Needs(Right.DESIGN)
    @PostMapping("/try")
    String tried(@RequestParam MultiValueMap<String, String> all, Principal by, Model model) {
        try {
            QueryDefinition query = forms.query(new QueryForm(all));
            answers.show(query, Map.of(), query.window(), by.getName(), model);
        } catch (IllegalArgumentException no) {
            model.addAttribute("refusal", no.getMessage());
        }
        return "query/rows :: rows";
    }

    /** Asks it as it is saved or released. */
    @GetMapping("/{id}/rows")
    String rows(@PathVariable String id, @RequestParam Map<String, String> all, Principal by, Model model) {
        QueryDefinition query = query(id);
        model.addAttribute("formats", FileFormat.values());
        model.addAttribute("id", id);
        model.addAttribute("values", addressed(all));
        answers.show(query, typed(all), all.getOrDefault("window", ""), by.getName(), model);
        return "query/rows :: rows";
    }

    /** What a parameter may be, where it has a list. */
    @GetMapping("/{id}/choices/{name}")
    String choices(@PathVariable String id, @PathVariable String name, Model model) {
        model.addAttribute("name", name);
        try {
            model.addAttribute(
                    "choices",
                    queries.choices(
                            query(id)
                                    .parameter(name)
                                    .orElseThrow(() -> new IllegalArgumentException("It has no such parameter.")),
                            RightsHeld.standing()));
        } catch (QueryProblem | WindowProblem | StoreProblem problem) {
            model.addAttribute("trouble", "There is no list to choose from: " + problem.getMessage());
        }
        return "query/asked :: choices";
    }

    private static Map<String, String> typed(Map<String, String> all) {
        return all.entrySet().stream()
                .filter(each -> each.getKey().startsWith(VALUE))
                .collect(Collectors.toMap(each -> each.getKey().substring(VALUE.length()), Map.Entry::getValue));
    }

    /** What of a request says which rows are asked for. */
    private static Map<String, String> addressed(Map<String, String> all) {
        return all.entrySet().stream()
                .filter(each -> each.getKey().startsWith(VALUE) || each.getKey().equals("window"))
                .collect(Collectors.toMap(Map.Entry::getKey, Map.Entry::getValue, (a, b) -> a, TreeMap::new));
    }

    @GetMapping("/{id}/rows.{ending}")
    void file(
            @PathVariable String id,
            @PathVariable String ending,
            @RequestParam Map<String, String> all,
            Principal by,
            HttpServletResponse response)
            throws StoreProblem, QueryProblem, WindowProblem, IOException {
        QueryDefinition query = query(id);
        FileFormat format = FileFormat.of(ending)
                .orElseThrow(() -> new IllegalArgumentException("There is no format " + ending + "."));
        Asked asked = queries.asked(query, typed(all), all.getOrDefault("window", ""), RightsHeld.standing());
        audit.note(by.getName(), "took a file of a query", query.name() + " as " + format.words());
        response.setContentType(format.mediaType());
        response.setHeader(
                "Content-Disposition",
                "attachment; filename=\"" + query.name().replaceAll("[^A-Za-z0-9._-]", "_") + "." + ending + "\"");
        exports.write(
                taker -> asked.give(TableReading.WHOLE, Long.MAX_VALUE, taker), format, response.getOutputStream());
    }

    @PostMapping
    String save(@RequestParam MultiValueMap<String, String> all, Principal by, Model model, RedirectAttributes flash) {
        QueryForm form = new QueryForm(all);
        Map<String, String> problems = new TreeMap<>();
        QueryDefinition typed;
        try {
            typed = forms.query(form);
        } catch (IllegalArgumentException misread) {
            // All but what cannot be read stays in the form.
            typed = forms.query(form.withoutNumbers());
            return design(typed, seen(form), Map.of("asks", misread.getMessage()), model);
        }
        String nameProblem = typed.name().isEmpty()
                ? "Give it a name, by which people find it."
                : definitions.nameProblem(QueryDefinition.class, typed.id(), typed.name());
        if (!nameProblem.isEmpty()) {
            problems.put("name", nameProblem);
        }
        try {
            queries.check(typed.asks());
        } catch (QueryProblem problem) {
            problems.put("asks", problem.getMessage());
        }
        if (!problems.isEmpty()) {
            return design(typed, seen(form), problems, model);
        }
        String used = typed.id().isEmpty() ? Definitions.newId() : typed.id();
        drafts.edit(
                new QueryDefinition(
                        used, typed.name(), typed.description(), typed.asks(), typed.window(), typed.parameters()),
                seen(form),
                by.getName());
        flash.addFlashAttribute("said", "Saved as a draft. Once it is released, everybody may ask it.");
        return "redirect:" + PAGE + "/" + used;
    }

    @PostMapping("/{id}/remove")
    String remove(@PathVariable String id, Principal by, RedirectAttributes flash) {
        return removal.remove(id, "query", PAGE, by.getName(), flash);
    }
}
