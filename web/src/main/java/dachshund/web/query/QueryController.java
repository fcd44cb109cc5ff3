package dachshund.web.query;

import dachshund.core.definition.Definition;
import dachshund.core.destination.StoreProblem;
import dachshund.core.query.QueryDefinition;
import dachshund.core.query.QueryParameter;
import dachshund.core.query.QueryProblem;
import dachshund.core.reader.TableReading;
import dachshund.core.window.WindowProblem;
import dachshund.office.audit.Audit;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.export.Exports;
import dachshund.office.export.FileFormat;
import dachshund.office.query.Queries;
import dachshund.office.reader.Databases;
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
    private final Databases databases;
    private final Queries queries;
    private final Answers answers;
    private final Exports exports;
    private final Audit audit;
    private final DesignLists lists;

    QueryController(
            Definitions definitions,
            Drafts drafts,
            Removal removal,
            Databases databases,
            Queries queries,
            Answers answers,
            Exports exports,
            Audit audit,
            DesignLists lists) {
        this.definitions = definitions;
        this.drafts = drafts;
        this.removal = removal;
        this.databases = databases;
        this.queries = queries;
        this.answers = answers;
        this.exports = exports;
        this.audit = audit;
        this.lists = lists;
    }

    @GetMapping
    String list(DesignLists.Asked asked, Model model) {
        lists.show(asked.query("QUERY"), model);
        return "query/queries";
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
            @RequestParam(defaultValue = "") String database,
            @RequestParam(defaultValue = "") String sql,
            Model model) {
        List<Definition> all = databases.all();
        String first = all.size() == 1 ? all.get(0).id() : database;
        return design(new QueryDefinition("", "", "", first, sql, "", List.of()), 0, Map.of(), model);
    }

    @GetMapping("/{id}")
    String page(@PathVariable String id, @RequestParam Map<String, String> all, Model model) {
        QueryDefinition query = query(id);
        if (RightsHeld.has(Right.DESIGN) && !all.containsKey("asked")) {
            model.addAttribute("users", definitions.users(id));
            return design(query, drafts.revision(id), Map.of(), model);
        }
        model.addAttribute("query", query);
        model.addAttribute("typed", typed(all));
        model.addAttribute("window", all.getOrDefault("window", query.window()));
        model.addAttribute(
                "database",
                definitions.find(query.database()).map(Definition::name).orElse(""));
        return "query/asked";
    }

    private String design(QueryDefinition query, int seen, Map<String, String> problems, Model model) {
        model.addAttribute("query", query);
        model.addAttribute("seen", seen);
        model.addAttribute("databases", databases.all());
        model.addAttribute("sorts", QueryParameter.Sort.values());
        model.addAttribute("problems", problems);
        return "query/query";
    }

    /** What the form has now. */
    private static QueryDefinition typed(String id, Map<String, String> all) {
        QueryDefinition written = new QueryDefinition(
                id,
                all.getOrDefault("name", "").strip(),
                all.getOrDefault("description", "").strip(),
                all.getOrDefault("database", ""),
                all.getOrDefault("sql", "").replace("\r\n", "\n").strip(),
                all.getOrDefault("window", "").strip(),
                all.entrySet().stream()
                        .filter(each -> each.getKey().startsWith("sort-"))
                        .map(each -> parameter(each.getKey().substring("sort-".length()), each.getValue(), all))
                        .toList());
        return written.fitted();
    }

    private static QueryParameter parameter(String name, String sort, Map<String, String> all) {
        return new QueryParameter(name, QueryParameter.Sort.named(sort), all.getOrDefault("start-" + name, ""));
    }

    /** The parameters that the text has now. */
    @Needs(Right.DESIGN)
    @PostMapping("/parameters")
    String parameters(@RequestParam Map<String, String> all, Model model) {
        model.addAttribute("query", typed("", all));
        model.addAttribute("sorts", QueryParameter.Sort.values());
        return "query/query :: parameters";
    }

    /** Asks what the form has now, saved or not. */
    @Needs(Right.DESIGN)
    @PostMapping("/try")
    String tried(@RequestParam Map<String, String> all, @RequestParam(defaultValue = "1") int page, Model model) {
        QueryDefinition query = typed("", all);
        model.addAttribute("address", PAGE + "/try");
        answers.show(query, Map.of(), query.window(), page, model);
        return "query/query :: rows";
    }

    /** Asks it as it is saved or released. */
    @GetMapping("/{id}/rows")
    String rows(
            @PathVariable String id,
            @RequestParam Map<String, String> all,
            @RequestParam(defaultValue = "1") int page,
            Model model) {
        QueryDefinition query = query(id);
        model.addAttribute("formats", FileFormat.values());
        model.addAttribute("id", id);
        model.addAttribute("values", addressed(all));
        answers.show(query, typed(all), all.getOrDefault("window", ""), page, model);
        return "query/query :: rows";
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
        Queries.Asked asked = queries.asked(query, typed(all), all.getOrDefault("window", ""), RightsHeld.standing());
        audit.note(by.getName(), "took a file of a query", query.name() + " as " + format.words());
        response.setContentType(format.mediaType());
        response.setHeader(
                "Content-Disposition",
                "attachment; filename=\"" + query.name().replaceAll("[^A-Za-z0-9._-]", "_") + "." + ending + "\"");
        exports.write(
                taker -> asked.give(TableReading.WHOLE, Long.MAX_VALUE, taker), format, response.getOutputStream());
    }

    @PostMapping
    String save(
            @RequestParam Map<String, String> all,
            @RequestParam(defaultValue = "") String id,
            @RequestParam(defaultValue = "0") int seen,
            Principal by,
            Model model,
            RedirectAttributes flash) {
        QueryDefinition typed = typed(id, all);
        Map<String, String> problems = new TreeMap<>();
        String nameProblem = typed.name().isEmpty()
                ? "Give it a name, by which people find it."
                : definitions.nameProblem(QueryDefinition.class, id, typed.name());
        if (!nameProblem.isEmpty()) {
            problems.put("name", nameProblem);
        }
        if (typed.database().isEmpty()) {
            problems.put("database", "Choose the database that is asked.");
        }
        Answers.textProblem(typed.sql()).ifPresent(problem -> problems.put("sql", problem));
        if (!problems.isEmpty()) {
            return design(typed, seen, problems, model);
        }
        String used = id.isEmpty() ? Definitions.newId() : id;
        drafts.edit(
                new QueryDefinition(
                        used,
                        typed.name(),
                        typed.description(),
                        typed.database(),
                        typed.sql(),
                        typed.window(),
                        typed.parameters()),
                seen,
                by.getName());
        flash.addFlashAttribute("said", "Saved as a draft. Once it is released, everybody may ask it.");
        return "redirect:" + PAGE + "/" + used;
    }

    @PostMapping("/{id}/remove")
    String remove(@PathVariable String id, Principal by, RedirectAttributes flash) {
        return removal.remove(id, "query", PAGE, by.getName(), flash);
    }
}
