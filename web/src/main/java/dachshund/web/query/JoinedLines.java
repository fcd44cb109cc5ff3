package dachshund.web.query;

import dachshund.core.query.JoinedQuery;
import dachshund.core.query.QueryDefinition;
import dachshund.office.definition.Definitions;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import org.springframework.stereotype.Component;
import org.springframework.ui.Model;

/** A query over several saved ones as a form, and back. */
@Component
class JoinedLines {

    private static final int MOST = 8;

    private final Definitions definitions;

    JoinedLines(Definitions definitions) {
        this.definitions = definitions;
    }

    JoinedQuery query(QueryForm form) {
        List<JoinedQuery.Part> parts = new ArrayList<>();
        for (int line : form.lines("part", "query")) {
            parts.add(new JoinedQuery.Part(form.text("part-" + line + "-name"), form.text("part-" + line + "-query")));
        }
        String more = form.text("add-part");
        if (!more.isEmpty()) {
            if (parts.size() >= MOST) {
                throw new IllegalArgumentException("A query has " + MOST + " parts at most.");
            }
            parts.add(new JoinedQuery.Part(free(parts, more), more));
        }
        return new JoinedQuery(parts, form.sql());
    }

    /** As the saved query is called, in one word. */
    private String free(List<JoinedQuery.Part> parts, String id) {
        String name = definitions
                .find(QueryDefinition.class, id)
                .map(QueryDefinition::name)
                .orElse("part")
                .toLowerCase(Locale.ROOT)
                .replaceAll("[^a-z0-9]+", "_")
                .replaceAll("^_+|_+$", "")
                .replaceAll("^(?=\\d)|^$", "part_");
        String wanted = name.substring(0, Math.min(30, name.length()));
        String free = wanted;
        for (int i = 2; taken(parts, free); i++) {
            free = wanted + "_" + i;
        }
        return free;
    }

    private static boolean taken(List<JoinedQuery.Part> parts, String name) {
        return parts.stream().anyMatch(each -> each.name().equalsIgnoreCase(name));
    }

    void show(JoinedQuery query, Model model) {
        model.addAttribute("j", query);
        model.addAttribute(
                "partQueries",
                definitions.all(QueryDefinition.class).stream()
                        .filter(each -> !(each.asks() instanceof JoinedQuery))
                        .toList());
    }
}
