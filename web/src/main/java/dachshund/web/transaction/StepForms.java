package dachshund.web.transaction;

import dachshund.core.tag.TagRef;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.transaction.Wording;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.springframework.util.MultiValueMap;

/** Steps as forms, and forms as steps. */
final class StepForms {

    private static final int MOST_ROWS = 1_000_000;

    private StepForms() {}

    /** The kinds of steps, by the name that a form gives them. */
    enum Kind {
        LOOK_UP("Look up", Step.LookUp.class, "look"),
        INSERT("Insert a row", Step.Put.class, "insert"),
        UPDATE("Update rows", Step.Put.class, "update"),
        INSERT_OR_UPDATE("Insert or update a row", Step.Put.class, "upsert"),
        DELETE("Delete rows", Step.Put.class, "delete"),
        STATEMENT("Run SQL, or call a procedure", Step.Statement.class, "run"),
        COMPUTE("Compute a value", Step.Compute.class, "value"),
        WRITE_TAG("Write a tag, after the commit", Step.WriteTag.class, "write"),
        PUBLISH("Publish a message, after the commit", Step.Publish.class, "publish"),
        APPEND("Write a line to a file, after the commit", Step.Append.class, "line"),
        NOTE("Note in the ledger", Step.Note.class, "note");

        private final String words;
        private final Class<? extends Step> type;
        private final String name;

        Kind(String words, Class<? extends Step> type, String name) {
            this.words = words;
            this.type = type;
            this.name = name;
        }

        public String words() {
            return words;
        }

        static Kind of(Step step) {
            return Arrays.stream(values())
                    .filter(kind -> kind.type.isInstance(step)
                            && (!(step instanceof Step.Put put)
                                    || put.deed().name().equals(kind.name())))
                    .findFirst()
                    .orElseThrow();
        }

        /** @throws IllegalArgumentException with a sentence, where there is none of that name */
        static Kind named(String name) {
            return Arrays.stream(values())
                    .filter(kind -> kind.name().equals(name))
                    .findFirst()
                    .orElseThrow(
                            () -> new IllegalArgumentException("There is no kind of step called \"" + name + "\"."));
        }
    }

    /** A new one, under a name that is free. */
    static Step fresh(Kind kind, TransactionDefinition in) {
        String name = free(kind.name, in);
        return switch (kind) {
            case LOOK_UP -> new Step.LookUp(name, "", "", "", Step.Rows.ONE);
            case INSERT -> put(name, Step.Deed.INSERT);
            case UPDATE -> put(name, Step.Deed.UPDATE);
            case INSERT_OR_UPDATE -> put(name, Step.Deed.INSERT_OR_UPDATE);
            case DELETE -> put(name, Step.Deed.DELETE);
            case STATEMENT -> new Step.Statement(name, "", "", 0, 1, "");
            case COMPUTE -> new Step.Compute(name, "", "");
            case WRITE_TAG ->
                new Step.WriteTag(name, "", TagRef.gapFor(new TagRef("write", "the tag that is written")), "", 0);
            case PUBLISH -> new Step.Publish(name, "", "", "", new Wording(Wording.As.JSON, "", List.of()), false);
            case APPEND -> new Step.Append(name, "", "", "", new Wording(Wording.As.CSV, "", List.of()));
            case NOTE -> new Step.Note(name, "", "");
        };
    }

    private static Step.Put put(String name, Step.Deed deed) {
        return new Step.Put(name, "", deed, "", List.of(), 1, 1, "");
    }

    private static String free(String wish, TransactionDefinition in) {
        String name = wish;
        for (int n = 2; in.step(name).isPresent() || in.namesBefore(0).contains(name); n++) {
            name = wish + n;
        }
        return name;
    }

    /**
     * The step that a form says.
     *
     * @throws IllegalArgumentException with a sentence
     */
    static Step read(MultiValueMap<String, String> form, Step before) {
        String name = text(form, "name");
        String only = text(form, "only");
        if (before instanceof Step.LookUp) {
            return new Step.LookUp(
                    name,
                    only,
                    text(form, "in"),
                    form.getOrDefault("sql", List.of("")).get(0),
                    rows(text(form, "rows")),
                    text(form, "query"));
        }
        if (before instanceof Step.Put put) {
            return new Step.Put(
                    name,
                    only,
                    put.deed(),
                    text(form, "table"),
                    cells(form),
                    count(form, "least"),
                    count(form, "most"),
                    text(form, "each"),
                    text(form, "in"));
        }
        if (before instanceof Step.Statement) {
            return new Step.Statement(
                    name,
                    only,
                    form.getOrDefault("sql", List.of("")).get(0),
                    count(form, "least"),
                    count(form, "most"),
                    text(form, "each"),
                    text(form, "in"));
        }
        if (before instanceof Step.Publish) {
            return new Step.Publish(
                    name, only, text(form, "source"), text(form, "topic"), says(form), form.containsKey("retained"));
        }
        if (before instanceof Step.Append) {
            return new Step.Append(name, only, text(form, "destination"), text(form, "file"), says(form));
        }
        if (before instanceof Step.Compute) {
            return new Step.Compute(name, only, text(form, "value"));
        }
        if (before instanceof Step.WriteTag write) {
            return new Step.WriteTag(name, only, write.tag(), text(form, "value"), tolerance(form));
        }
        return new Step.Note(name, only, text(form, "value"));
    }

    private static Wording says(MultiValueMap<String, String> form) {
        String as = text(form, "as");
        return new Wording(
                Arrays.stream(Wording.As.values())
                        .filter(each -> each.name().equals(as))
                        .findFirst()
                        .orElseThrow(() -> new IllegalArgumentException("Say how it is written.")),
                text(form, "text"),
                cells(form));
    }

    private static String text(MultiValueMap<String, String> form, String field) {
        return form.getOrDefault(field, List.of("")).get(0).strip();
    }

    private static Step.Rows rows(String name) {
        return Arrays.stream(Step.Rows.values())
                .filter(each -> each.name().equals(name))
                .findFirst()
                .orElseThrow(() -> new IllegalArgumentException("Say how many rows it may give."));
    }

    /** A line without a column is none; one is always left empty for the next. */
    private static List<Step.Cell> cells(MultiValueMap<String, String> form) {
        List<String> columns = form.getOrDefault("column", List.of());
        List<String> values = form.getOrDefault("value", List.of());
        List<String> keys = form.getOrDefault("key", List.of());
        List<Step.Cell> cells = new ArrayList<>();
        for (int i = 0; i < Math.min(columns.size(), values.size()); i++) {
            if (!columns.get(i).isBlank()) {
                cells.add(new Step.Cell(
                        columns.get(i).strip(), values.get(i).strip(), keys.contains(Integer.toString(i))));
            }
        }
        return cells;
    }

    private static long count(MultiValueMap<String, String> form, String field) {
        String text = text(form, field);
        if (!text.matches("\\d{1,7}") || Long.parseLong(text) > MOST_ROWS) {
            throw new IllegalArgumentException(
                    "\"" + text + "\" is no number of rows. Write a whole number up to 1000000.");
        }
        return Long.parseLong(text);
    }

    private static double tolerance(MultiValueMap<String, String> form) {
        String text = text(form, "tolerance").replace(',', '.');
        try {
            double tolerance = text.isEmpty() ? 0 : new BigDecimal(text).doubleValue();
            if (tolerance >= 0 && Double.isFinite(tolerance)) {
                return tolerance;
            }
        } catch (NumberFormatException no) {
            throw new IllegalArgumentException(
                    "\"" + text + "\" is no tolerance. Write a number from 0 on, such as 0.5.", no);
        }
        throw new IllegalArgumentException("\"" + text + "\" is no tolerance. Write a number from 0 on, such as 0.5.");
    }
}
