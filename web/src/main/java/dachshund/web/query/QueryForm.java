package dachshund.web.query;

import dachshund.core.query.JoinedQuery;
import dachshund.core.query.QueryBody;
import dachshund.core.query.QueryDefinition;
import dachshund.core.query.QueryParameter;
import dachshund.core.query.WrittenQuery;
import java.util.ArrayList;
import java.util.List;
import java.util.TreeSet;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.springframework.util.LinkedMultiValueMap;
import org.springframework.util.MultiValueMap;

/** What the form of a query has now, saved or not. */
record QueryForm(MultiValueMap<String, String> all) {

    /** The ways to ask, each with a form of its own. */
    enum Way {
        LINES("In lines"),
        SQL("As SQL"),
        TAGS("History of tags"),
        JOINED("Across databases");

        private final String words;

        Way(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }

        static Way of(QueryBody body) {
            if (body instanceof WrittenQuery) {
                return SQL;
            }
            if (body instanceof JoinedQuery) {
                return JOINED;
            }
            return body instanceof dachshund.core.query.TagHistory ? TAGS : LINES;
        }

        static Way named(String name) {
            for (Way each : values()) {
                if (each.name().equals(name)) {
                    return each;
                }
            }
            return LINES;
        }
    }

    Way way() {
        return Way.named(text("way"));
    }

    /** Stripped; empty where it is not there. */
    String text(String field) {
        return raw(field).strip();
    }

    /** As it was typed. */
    String raw(String field) {
        String value = all.getFirst(field);
        return value == null ? "" : value;
    }

    List<String> texts(String field) {
        return all.getOrDefault(field, List.of()).stream()
                .filter(each -> !each.isBlank())
                .toList();
    }

    boolean ticked(String field) {
        return !text(field).isEmpty();
    }

    /** The numbers of the lines of a kind that are there, but for one that is dropped: {@code shown-3-how} is line 3. */
    List<Integer> lines(String kind, String field) {
        Pattern pattern = Pattern.compile(Pattern.quote(kind) + "-(\\d{1,4})-" + Pattern.quote(field));
        TreeSet<Integer> numbers = new TreeSet<>();
        for (String key : all.keySet()) {
            Matcher line = pattern.matcher(key);
            if (line.matches() && !text("drop").equals(kind + "-" + line.group(1))) {
                numbers.add(Integer.valueOf(line.group(1)));
            }
        }
        return new ArrayList<>(numbers);
    }

    /** With what is asked, as its own form has it. */
    QueryDefinition query(QueryBody body) {
        return new QueryDefinition(
                        text("id"),
                        text("name"),
                        text("description"),
                        body,
                        text("window"),
                        all.keySet().stream()
                                .filter(each -> each.startsWith("sort-"))
                                .map(each -> parameter(each.substring("sort-".length()), text(each)))
                                .toList())
                .fitted();
    }

    private QueryParameter parameter(String name, String sort) {
        return new QueryParameter(name, QueryParameter.Sort.named(sort), raw("start-" + name), text("list-" + name));
    }

    /** Without what is typed as a number or a time between two rows. */
    QueryForm withoutNumbers() {
        MultiValueMap<String, String> others = new LinkedMultiValueMap<>(all);
        others.keySet()
                .removeIf(field -> field.equals("most") || field.equals("every") || field.matches("calc-\\d+-with"));
        return new QueryForm(others);
    }

    String sql() {
        return raw("sql").replace("\r\n", "\n").strip();
    }
}
