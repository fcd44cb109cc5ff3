package dachshund.web.when;

import dachshund.core.definition.Driven;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.formula.Bound;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.time.PeriodText;
import dachshund.core.when.Condition;
import dachshund.core.when.Deadband;
import dachshund.core.when.When;
import dachshund.office.definition.Definitions;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.LocalTime;
import java.time.format.DateTimeParseException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.EnumSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import org.springframework.stereotype.Component;

/** Whens as forms, and forms as Whens. */
@Component
public class WhenForms {

    private final Definitions definitions;

    /** The kinds of When, by the name that a form gives them. */
    public enum Kind {
        EVERY("Every", When.Every.class),
        CHANGE("On change", When.OnChange.class),
        TIMES("At clock times", When.AtTimes.class),
        SHIFT_ENDS("At each shift end", When.AtShiftEnds.class),
        CRON("By cron", When.ByCron.class),
        CONDITION("On a condition", When.OnCondition.class),
        IDENTIFIER("When an identifier changes", When.OnIdentifier.class),
        REQUEST("On a request with a number", When.OnRequest.class),
        NEW_ROW("For each new row of a table", When.OnNewRow.class),
        AFTER("After another transaction", When.AfterTransaction.class),
        WHILE("At a rate while", When.WhileTrue.class);

        private final String words;
        private final Class<? extends When> type;

        Kind(String words, Class<? extends When> type) {
            this.words = words;
            this.type = type;
        }

        public String words() {
            return words;
        }

        /** Those that can bring about what is driven. */
        public static List<Kind> offered(Driven driven) {
            return Arrays.stream(values())
                    .filter(kind -> kind != NEW_ROW && kind != AFTER || !(driven instanceof RecorderDefinition))
                    .toList();
        }

        public static Kind of(When when) {
            return Arrays.stream(values())
                    .filter(kind -> kind.type.isInstance(when))
                    .findFirst()
                    .orElseThrow();
        }
    }

    /** What a tag of a request is to it. */
    public enum Role {
        NUMBER("the number of the request"),
        ANSWERED("gets the number once it is answered"),
        EPOCH("changes when the controller counts anew (may stay empty)");

        private final String words;

        Role(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }
    }

    /** Numbers are given out before their rows are committed, mostly not by many clients at once. */
    private static final long USUAL_LOWER = 1000;

    private static final TagRef NO_TAG_YET = TagRef.gapFor(new TagRef("request", "the number of the request"));

    /** The same request with another tag in a role; with none, where that may be. */
    public static When with(When.OnRequest request, Role role, Optional<TagRef> tag) {
        return switch (role) {
            case NUMBER -> new When.OnRequest(tag.orElse(NO_TAG_YET), request.epoch(), request.answered());
            case EPOCH -> new When.OnRequest(request.number(), tag, request.answered());
            case ANSWERED -> new When.OnRequest(request.number(), request.epoch(), tag);
        };
    }

    /** An input of a condition: its name there, and the tag. */
    public record Input(String name, String tag) {}

    /** A tag to choose from. */
    public record Choice(String key, String name, boolean chosen) {}

    /** A When as the page shows it; fields that its kind does not have are empty. */
    public record Form(
            int index, Kind kind, Map<String, String> values, Set<String> days, List<Input> inputs, List<Choice> tags) {
        public String value(String name) {
            return values.getOrDefault(name, "");
        }
    }

    public WhenForms(Definitions definitions) {
        this.definitions = definitions;
    }

    public List<Form> forms(Driven driven) {
        List<Form> forms = new ArrayList<>();
        for (When when : driven.whens()) {
            forms.add(form(forms.size(), when, driven));
        }
        return forms;
    }

    public Form gate(Driven driven) {
        return driven.gate()
                .map(gate -> new Form(
                        -1, Kind.CONDITION, Map.of("condition", gate.text()), Set.of(), inputs(gate), List.of()))
                .orElse(null);
    }

    private Form form(int index, When when, Driven driven) {
        Map<String, String> values = new TreeMap<>();
        Set<String> days = new LinkedHashSet<>();
        List<Input> inputs = List.of();
        List<TagRef> chosen = List.of();
        if (when instanceof When.Every each) {
            values.put("period", PeriodText.write(each.period()));
            values.put("fromStart", Boolean.toString(each.fromStart()));
        } else if (when instanceof When.OnChange each) {
            values.put("deadband", each.deadband().kind().name());
            values.put(
                    "amount",
                    java.math.BigDecimal.valueOf(each.deadband().amount())
                            .stripTrailingZeros()
                            .toPlainString());
            values.put("notMoreOften", optional(each.notMoreOften()));
            values.put("atLeast", optional(each.atLeast()));
            chosen = each.tags();
        } else if (when instanceof When.AtTimes each) {
            each.days().forEach(day -> days.add(day.name()));
            values.put(
                    "times",
                    String.join(
                            ", ", each.times().stream().map(LocalTime::toString).toList()));
            values.put("utc", Boolean.toString(each.utc()));
            values.put("missed", each.missed().name());
        } else if (when instanceof When.AtShiftEnds each) {
            values.put("missed", each.missed().name());
        } else if (when instanceof When.ByCron each) {
            values.put("line", each.line());
            values.put("utc", Boolean.toString(each.utc()));
            values.put("missed", each.missed().name());
        } else if (when instanceof When.OnCondition each) {
            values.put("condition", each.condition().text());
            values.put("edge", each.edge().name());
            values.put("debounce", optional(each.debounce()));
            values.put("holdOff", optional(each.holdOff()));
            inputs = inputs(each.condition());
        } else if (when instanceof When.OnIdentifier each) {
            values.put("debounce", optional(each.debounce()));
            values.put("holdOff", optional(each.holdOff()));
            chosen = List.of(each.tag());
        } else if (when instanceof When.OnRequest each) {
            values.put(Role.NUMBER.name(), name(each.number()));
            each.epoch().ifPresent(tag -> values.put(Role.EPOCH.name(), name(tag)));
            each.answered().ifPresent(tag -> values.put(Role.ANSWERED.name(), name(tag)));
        } else if (when instanceof When.OnNewRow each) {
            values.put("database", each.database());
            values.put("table", each.table());
            values.put("key", String.join(", ", each.key()));
            values.put("order", each.order());
            values.put("back", each.lookBack());
            values.put("every", PeriodText.write(each.every()));
        } else if (when instanceof When.AfterTransaction each) {
            values.put("transaction", each.transaction());
        } else if (when instanceof When.WhileTrue each) {
            values.put("condition", each.condition().text());
            values.put("period", PeriodText.write(each.period()));
            inputs = inputs(each.condition());
        }
        return new Form(index, Kind.of(when), values, days, inputs, tags(driven, chosen));
    }

    private static String optional(Duration length) {
        return length.isZero() ? "" : PeriodText.write(length);
    }

    private List<Input> inputs(Condition condition) {
        return new TreeMap<>(condition.inputs())
                .entrySet().stream()
                        .map(input -> new Input(input.getKey(), name(input.getValue())))
                        .toList();
    }

    private String name(TagRef tag) {
        return definitions.tag(tag).map(TagInfo::fullName).orElse(tag.isGap() ? "no tag yet" : "a tag that is gone");
    }

    private List<Choice> tags(Driven driven, List<TagRef> chosen) {
        Set<TagRef> offered = new LinkedHashSet<>(driven.everyTag());
        offered.addAll(chosen);
        return offered.stream()
                .map(tag -> new Choice(
                        tag.source() + " " + tag.address(),
                        definitions.tag(tag).map(TagInfo::name).orElse("a tag that is gone"),
                        chosen.contains(tag)))
                .toList();
    }

    /**
     * A When of a kind as a new one begins.
     *
     * @throws IllegalArgumentException with a sentence, where the row has nothing for it yet
     */
    public When fresh(Kind kind, Driven driven) {
        return switch (kind) {
            case EVERY -> new When.Every(Duration.ofSeconds(1));
            case CHANGE -> new When.OnChange(Deadband.NONE, List.of(), Duration.ZERO, Duration.ZERO);
            case TIMES ->
                new When.AtTimes(
                        EnumSet.allOf(DayOfWeek.class), List.of(LocalTime.of(6, 0)), false, When.Missed.RUN_LATE);
            case SHIFT_ENDS -> new When.AtShiftEnds(When.Missed.RUN_LATE);
            case CRON -> new When.ByCron("0 6 * * 1-5", false, When.Missed.RUN_LATE);
            case CONDITION ->
                new When.OnCondition(new Condition("", Map.of()), When.Edge.RISING, Duration.ZERO, Duration.ZERO);
            case IDENTIFIER -> new When.OnIdentifier(identifier(driven), Duration.ZERO, Duration.ZERO);
            case REQUEST -> new When.OnRequest(NO_TAG_YET, Optional.empty(), Optional.empty());
            case NEW_ROW -> new When.OnNewRow("", "", List.of(), "", Duration.ZERO, USUAL_LOWER, Duration.ofSeconds(5));
            case AFTER -> new When.AfterTransaction("");
            case WHILE -> new When.WhileTrue(new Condition("", Map.of()), Duration.ofSeconds(1));
        };
    }

    /** The row's first text, as an identifier mostly is; else its first tag. */
    private TagRef identifier(Driven driven) {
        List<TagRef> tags = driven.everyTag();
        return tags.stream()
                .filter(tag -> definitions
                        .tag(tag)
                        .map(info -> info.kind() == DataKind.TEXT)
                        .orElse(false))
                .findFirst()
                .or(() -> tags.stream().findFirst())
                .orElseThrow(() -> new IllegalArgumentException(
                        "Add the identifier's tag to it first: a column of the row, or a value that is gathered."));
    }

    /**
     * The When that a form says.
     *
     * @param before the When that it changes, whose inputs are kept
     * @throws Refused with a field and a sentence
     */
    public When read(Map<String, String> form, List<String> days, List<String> tags, When before, Driven driven)
            throws Refused {
        return switch (Kind.of(before)) {
            case EVERY -> said("period", () -> new When.Every(period(form, "period"), form.containsKey("fromStart")));
            case CHANGE ->
                said(
                        "amount",
                        () -> new When.OnChange(
                                deadband(form),
                                tags.stream()
                                        .map(dachshund.office.tag.TagFinder::ref)
                                        .toList(),
                                length(form, "notMoreOften"),
                                length(form, "atLeast")));
            case TIMES ->
                said(
                        "times",
                        () -> new When.AtTimes(
                                Set.copyOf(days.stream().map(DayOfWeek::valueOf).toList()),
                                times(form.getOrDefault("times", "")),
                                form.containsKey("utc"),
                                missed(form)));
            case SHIFT_ENDS -> new When.AtShiftEnds(missed(form));
            case CRON ->
                said(
                        "line",
                        () -> new When.ByCron(
                                form.getOrDefault("line", "").strip(), form.containsKey("utc"), missed(form)));
            case CONDITION ->
                said(
                        "condition",
                        () -> new When.OnCondition(
                                condition(form, ((When.OnCondition) before).condition(), driven),
                                When.Edge.valueOf(form.getOrDefault("edge", "RISING")),
                                length(form, "debounce"),
                                length(form, "holdOff")));
            case IDENTIFIER ->
                said(
                        "debounce",
                        () -> new When.OnIdentifier(
                                tags.isEmpty()
                                        ? ((When.OnIdentifier) before).tag()
                                        : dachshund.office.tag.TagFinder.ref(tags.get(0)),
                                length(form, "debounce"),
                                length(form, "holdOff")));
            case REQUEST -> before;
            case NEW_ROW -> said("back", () -> newRow(form));
            case AFTER -> new When.AfterTransaction(form.getOrDefault("transaction", ""));
            case WHILE ->
                said(
                        "period",
                        () -> new When.WhileTrue(
                                condition(form, ((When.WhileTrue) before).condition(), driven),
                                period(form, "period")));
        };
    }

    /** A form that cannot be read. */
    public static final class Refused extends Exception {
        private final String field;

        Refused(String field, String sentence) {
            super(sentence, null, false, false);
            this.field = field;
        }

        public String field() {
            return field;
        }
    }

    @FunctionalInterface
    private interface Reading {
        When read() throws Refused;
    }

    /** Makes a When; what it complains of belongs to the field. */
    private static When said(String field, Reading reading) throws Refused {
        try {
            return reading.read();
        } catch (IllegalArgumentException problem) {
            throw new Refused(field, problem.getMessage());
        }
    }

    private static Duration period(Map<String, String> form, String field) throws Refused {
        try {
            return PeriodText.read(form.getOrDefault(field, ""));
        } catch (IllegalArgumentException problem) {
            throw new Refused(field, problem.getMessage());
        }
    }

    private static Duration length(Map<String, String> form, String field) throws Refused {
        return form.getOrDefault(field, "").isBlank() ? Duration.ZERO : period(form, field);
    }

    private static Deadband deadband(Map<String, String> form) throws Refused {
        Deadband.Kind kind = Deadband.Kind.valueOf(form.getOrDefault("deadband", "NONE"));
        String amount = form.getOrDefault("amount", "").strip().replace(',', '.');
        try {
            return kind == Deadband.Kind.NONE
                    ? Deadband.NONE
                    : new Deadband(kind, amount.isEmpty() ? 0 : Double.parseDouble(amount));
        } catch (NumberFormatException notANumber) {
            throw new Refused("amount", "A deadband is a number, such as 0.5.");
        }
    }

    /** A look-back is a number where rows are numbered, and a length of time where they have times. */
    private static When newRow(Map<String, String> form) throws Refused {
        String back = form.getOrDefault("back", "").strip();
        boolean numbered = back.matches("\\d{1,9}");
        return new When.OnNewRow(
                form.getOrDefault("database", ""),
                form.getOrDefault("table", "").strip(),
                Arrays.stream(form.getOrDefault("key", "").split("[,;]"))
                        .map(String::strip)
                        .filter(each -> !each.isEmpty())
                        .toList(),
                form.getOrDefault("order", "").strip(),
                numbered ? Duration.ZERO : length(form, "back"),
                numbered ? Long.parseLong(back) : 0,
                period(form, "every"));
    }

    private static When.Missed missed(Map<String, String> form) {
        return When.Missed.valueOf(form.getOrDefault("missed", "RUN_LATE"));
    }

    private static List<LocalTime> times(String text) throws Refused {
        List<LocalTime> times = new ArrayList<>();
        for (String each : Arrays.stream(text.split("[,;\\s]+"))
                .filter(part -> !part.isEmpty())
                .toList()) {
            try {
                times.add(LocalTime.parse(each.length() == 4 ? "0" + each : each));
            } catch (DateTimeParseException notATime) {
                throw new Refused(
                        "times",
                        "\"" + each + "\" is not a time of day. Write 06:00, and several with commas between.");
            }
        }
        return times;
    }

    public Condition condition(Map<String, String> form, Condition before, Driven driven) {
        String text = form.getOrDefault("condition", "").strip();
        return new Condition(text, Bound.inputs(text, before.inputs(), driven.named()));
    }

    /** The condition with a tag more to speak of, under a free name made from the tag's. */
    public Condition withInput(Condition condition, TagRef tag) {
        Map<String, TagRef> inputs = new LinkedHashMap<>(condition.inputs());
        String base = definitions
                .tag(tag)
                .map(TagInfo::name)
                .orElse("x")
                .toLowerCase(java.util.Locale.ROOT)
                .replaceAll("[^a-z0-9]+", "_")
                .replaceAll("^[_0-9]+|_+$", "");
        String name = base.isEmpty() ? "x" : base;
        for (int n = 2; inputs.containsKey(name); n++) {
            name = base + "_" + n;
        }
        inputs.put(name, tag);
        return new Condition(condition.text().isBlank() ? name : condition.text(), inputs);
    }
}
