package dachshund.core.release;

import dachshund.core.definition.Driven;
import dachshund.core.definition.Follows;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.Repeatable;
import dachshund.core.formula.FormulaProblem;
import dachshund.core.shift.ShiftCalendar;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.when.Condition;
import dachshund.core.when.Confirmation;
import dachshund.core.when.When;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import java.util.function.UnaryOperator;
import java.util.stream.Stream;

/** Reads the Whens and the gate of a definition before it is released. */
public final class WhenCheck {

    private WhenCheck() {}

    /**
     * Sentences on what cannot work; empty where all can.
     *
     * @param tags what is known of a tag, empty where its source does not have it
     */
    public static List<String> problems(Driven driven, Function<TagRef, Optional<TagInfo>> tags, ShiftCalendar shifts) {
        List<String> problems = new ArrayList<>();
        if (driven.whens().isEmpty()) {
            problems.add("It has no When: say when " + driven.deed() + ".");
        }
        for (When when : driven.whens()) {
            when.dependsOn()
                    .ifPresentOrElse(
                            each -> condition(each, "The condition", gap(driven), tags, problems),
                            () -> known(when.tags(), when.tagWords(), gap(driven), tags, problems));
            if (when instanceof When.OnNewRow rows) {
                newRow(rows, driven, problems);
            }
            if (when instanceof When.AfterTransaction after) {
                after(after, driven, problems);
            }
            if (when.atShiftEnd() && shifts.shifts().isEmpty()) {
                problems.add("It writes at each shift end, and there is no shift yet. Make the shift calendar first.");
            }
        }
        driven.gate().ifPresent(gate -> condition(gate, "The gate", gap(driven), tags, problems));
        return problems;
    }

    /** Sentences on what the plant cannot be told; empty where all can, or nothing is to be. */
    public static List<String> unconfirmed(RecorderDefinition recorder, Function<TagRef, Optional<TagInfo>> tags) {
        if (recorder.confirms().isEmpty()) {
            return List.of();
        }
        List<String> problems = new ArrayList<>();
        if (recorder.request().isEmpty()) {
            problems.add(
                    "Only a row that the plant asks for by a number can be confirmed: choose the When *on a request with a number*, or confirm nothing.");
        } else if (recorder.whens().size() > 1) {
            problems.add(
                    "A request stands alone: with another When beside it, nobody could tell which of its rows are to be confirmed.");
        } else if (recorder.request().get().answered().isEmpty()) {
            problems.add(
                    "Say which tag gets the number of a request once its row is confirmed: the plant waits for it.");
        }
        if (recorder.wheres().stream().anyMatch(where -> !where.named().isEmpty())) {
            problems.add("Rows that name their destination cannot be confirmed: choose one destination.");
        }
        recorder.writes().stream().filter(tag -> !tag.isGap()).forEach(tag -> tags.apply(tag)
                .ifPresentOrElse(
                        info -> {
                            if (!info.writable()) {
                                problems.add(info.name() + " cannot be written: its source says that it is read only.");
                            }
                        },
                        () -> problems.add("A tag of the confirmation is not among the tags taken from its source: "
                                + tag.address() + ".")));
        Confirmation confirms = recorder.confirms().get();
        boolean bit = confirms.code()
                .flatMap(tags)
                .filter(info -> info.kind() == DataKind.BOOLEAN)
                .isPresent();
        if (bit && Stream.of(confirms.done(), confirms.failed()).anyMatch(code -> code != 0 && code != 1)) {
            problems.add("The tag of the code is a bit: let the codes be 1 and 0.");
        }
        if (confirms.tags().anyMatch(TagRef::isGap)) {
            problems.add(Follows.gap("A tag of the confirmation"));
        }
        return problems;
    }

    private static void newRow(When.OnNewRow rows, Driven driven, List<String> problems) {
        if (driven instanceof RecorderDefinition) {
            problems.add("A recorder does not look for rows of a table; a transaction does.");
        }
        if (rows.database().isEmpty()) {
            problems.add("Choose the database whose new rows are looked for.");
        }
        if (rows.table().isBlank() || rows.order().isBlank() || rows.key().isEmpty()) {
            problems.add(
                    "Say which table, which columns tell its rows apart, and which column grows with new rows, such as a number or a time.");
        }
    }

    private static void after(When.AfterTransaction after, Driven driven, List<String> problems) {
        if (driven instanceof RecorderDefinition) {
            problems.add("A recorder does not follow a transaction; another transaction does.");
        }
        if (after.transaction().isEmpty()) {
            problems.add("Choose the transaction after which it is done.");
        }
        if (after.transaction().equals(driven.id())) {
            problems.add("It would be done after itself, again and again.");
        }
    }

    /** Sentences on what works otherwise than one may think. */
    public static List<String> advice(RecorderDefinition recorder, Function<TagRef, Optional<TagInfo>> tags) {
        List<String> advice = new ArrayList<>();
        if (recorder.confirms().isPresent() && recorder.gate().isPresent()) {
            advice.add("A request that comes while the gate is shut gets no row and no answer.");
        }
        for (When when : recorder.whens()) {
            if (when.byRange()) {
                Collection<TagRef> looked =
                        when.tags().isEmpty() ? recorder.layout().tags() : when.tags();
                List<String> without = looked.stream()
                        .map(tags)
                        .flatMap(Optional::stream)
                        .filter(info -> info.kind().numeric() && info.range().isEmpty())
                        .map(TagInfo::name)
                        .toList();
                if (!without.isEmpty()) {
                    advice.add("Without a range there is no span to take a percentage of, so every change counts of: "
                            + String.join(", ", without) + ".");
                }
            }
        }
        return advice;
    }

    private static void condition(
            Condition condition,
            String what,
            UnaryOperator<String> gap,
            Function<TagRef, Optional<TagInfo>> tags,
            List<String> problems) {
        try {
            condition.formula();
        } catch (FormulaProblem problem) {
            problems.add(what + " cannot be read. " + problem.getMessage());
        }
        known(
                condition.inputs().values(),
                "An input of " + what.toLowerCase(java.util.Locale.ROOT),
                gap,
                tags,
                problems);
    }

    /** What is said of a tag that is missing: a design may follow another one, which has it. */
    private static UnaryOperator<String> gap(Driven driven) {
        boolean follows =
                driven instanceof Repeatable<?, ?> line && line.follows().isPresent();
        return driven instanceof RecorderDefinition || follows ? Follows::gap : what -> what + " is not chosen yet.";
    }

    private static void known(
            Collection<TagRef> refs,
            String what,
            UnaryOperator<String> gap,
            Function<TagRef, Optional<TagInfo>> tags,
            List<String> problems) {
        refs.stream()
                .filter(ref -> tags.apply(ref).isEmpty())
                .forEach(ref -> problems.add(
                        ref.isGap()
                                ? gap.apply(what)
                                : what + " is not among the tags taken from its source: " + ref.address() + "."));
    }
}
