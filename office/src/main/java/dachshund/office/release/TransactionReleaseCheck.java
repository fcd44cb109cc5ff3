package dachshund.office.release;

import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.keep.Assigned;
import dachshund.core.keep.KeepingRuleDefinition;
import dachshund.core.release.WhenCheck;
import dachshund.core.tag.TagRef;
import dachshund.core.transaction.OnEquipment;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.TransactingKind;
import dachshund.core.transaction.TransactionCheck;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.office.definition.Definitions;
import dachshund.office.transaction.Surroundings;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.springframework.stereotype.Component;

/** Whether a transaction can be released: its Whens, its steps, its database, and that nobody else writes its tags. */
@Component
class TransactionReleaseCheck implements KindCheck<TransactionDefinition> {

    private final Definitions definitions;
    private final Surroundings surroundings;
    private final WrittenTags written;

    TransactionReleaseCheck(Definitions definitions, Surroundings surroundings, WrittenTags written) {
        this.definitions = definitions;
        this.surroundings = surroundings;
        this.written = written;
    }

    @Override
    public Class<TransactionDefinition> type() {
        return TransactionDefinition.class;
    }

    @Override
    public void check(TransactionDefinition design, ReviewPass pass, List<String> consequences, List<String> problems) {
        if (!design.whens().isEmpty()) {
            problems.addAll(
                    WhenCheck.problems(design, definitions::tag, pass.plant().shifts()));
        } else {
            consequences.add("It has no When: it is done by hand alone.");
        }
        if (surroundings.store(design.database()).isEmpty()) {
            problems.add("Choose the database in which it is done.");
        }
        Stream.concat(Stream.of(design.database()), design.other().stream())
                .flatMap(each -> surroundings.store(each).stream())
                .filter(kind -> !(kind instanceof TransactingKind))
                .forEach(kind ->
                        problems.add(kind.title() + " is no database in which several things can be done at once."));
        TransactionCheck.problems(design, surroundings.on(pass::plant))
                .forEach(each -> problems.add(
                        each.step() == TransactionCheck.WHOLE
                                ? each.sentence()
                                : "Step " + (each.step() + 1) + ": " + each.sentence()));
        consequences.addAll(TransactionCheck.advice(design));
        ring(design, pass, problems);
        kept(OnEquipment.of(design, pass.plant()).placed(design), pass, problems);
        Set<String> brokers = design.steps().stream()
                .filter(Step.Publish.class::isInstance)
                .map(step -> ((Step.Publish) step).source())
                .collect(Collectors.toSet());
        written.consequences(design, brokers, pass, consequences);
    }

    /** Transactions that follow each other in a ring would never end. */
    private static void ring(TransactionDefinition design, ReviewPass pass, List<String> problems) {
        Map<String, TransactionDefinition> all = new HashMap<>();
        pass.after().stream()
                .filter(TransactionDefinition.class::isInstance)
                .map(TransactionDefinition.class::cast)
                .forEach(each -> all.put(each.id(), each));
        all.put(design.id(), design);
        Set<String> seen = new HashSet<>();
        Deque<String> before = new ArrayDeque<>(design.after());
        while (!before.isEmpty()) {
            String first = before.poll();
            if (first.equals(design.id())) {
                problems.add("It is done after a transaction that is done after it, again and again.");
                return;
            }
            if (seen.add(first)) {
                Optional.ofNullable(all.get(first)).ifPresent(each -> before.addAll(each.after()));
            }
        }
    }

    /** Of a tag that no rule keeps there is no history to compute from. */
    private void kept(TransactionDefinition design, ReviewPass pass, List<String> problems) {
        if (design.histories().isEmpty()) {
            return;
        }
        Set<TagRef> kept = Assigned.of(
                        pass.plant().all(KeepingRuleDefinition.class),
                        pass.plant().all(SourceDefinition.class),
                        pass.plant().all(EquipmentDefinition.class))
                .tags();
        design.histories().stream()
                .filter(tag -> !kept.contains(tag))
                .flatMap(tag -> definitions.tag(tag).stream())
                .forEach(info -> problems.add("The values of " + info.fullName()
                        + " are not kept, so nothing can be computed from them. Let a keeping rule keep the tag."));
    }
}
