package dachshund.office.release;

import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.Sentences;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.keep.Assigned;
import dachshund.core.keep.KeepingRuleDefinition;
import java.util.List;
import org.springframework.stereotype.Component;

/** What a keeping rule comes to: how many tags it keeps, which of them another one has, and where its deadband says nothing. */
@Component
class KeepingCheck implements KindCheck<KeepingRuleDefinition> {

    @Override
    public Class<KeepingRuleDefinition> type() {
        return KeepingRuleDefinition.class;
    }

    @Override
    public void check(KeepingRuleDefinition rule, ReviewPass pass, List<String> consequences, List<String> problems) {
        List<KeepingRuleDefinition> rules = pass.after().stream()
                .filter(KeepingRuleDefinition.class::isInstance)
                .map(KeepingRuleDefinition.class::cast)
                .toList();
        Assigned assigned = Assigned.of(
                rules, pass.plant().all(SourceDefinition.class), pass.plant().all(EquipmentDefinition.class));
        List<Assigned.Tag> tags = assigned.of(rule.id());
        consequences.add(
                tags.isEmpty()
                        ? "No tag is kept by it as things are."
                        : Sentences.count(tags.size(), "tag") + (tags.size() == 1 ? " is" : " are") + " kept by it.");
        assigned.keptByOthers(rule.id())
                .forEach((other, count) -> consequences.add(Sentences.count(count, "more tag") + " that it means "
                        + (count == 1 ? "is" : "are") + " kept by "
                        + rules.stream()
                                .filter(each -> each.id().equals(other))
                                .map(KeepingRuleDefinition::name)
                                .findFirst()
                                .orElse("another rule")
                        + ": a tag is kept once."));
        int gone = assigned.missing(rule.id()).size();
        if (gone > 0) {
            consequences.add(Sentences.count(gone, "tag") + " that it ticks " + (gone == 1 ? "is" : "are")
                    + " not there any more.");
        }
        long without = rule.how().percent() && rule.how().deadband() > 0
                ? tags.stream().filter(tag -> tag.info().range().isEmpty()).count()
                : 0;
        if (without > 0) {
            consequences.add(Sentences.count(without, "tag") + " without a range: each change of "
                    + (without == 1 ? "it" : "them") + " is kept.");
        }
    }
}
