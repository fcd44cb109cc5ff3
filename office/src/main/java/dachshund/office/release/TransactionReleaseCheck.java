package dachshund.office.release;

import dachshund.core.definition.DestinationDefinition;
import dachshund.core.release.WhenCheck;
import dachshund.core.tag.TagRef;
import dachshund.core.transaction.TransactingKind;
import dachshund.core.transaction.TransactionCheck;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.springframework.stereotype.Component;

/** Whether a transaction can be released: its Whens, its steps, its database, and that nobody else writes its tags. */
@Component
class TransactionReleaseCheck implements KindCheck<TransactionDefinition> {

    private final Definitions definitions;
    private final Engine engine;

    TransactionReleaseCheck(Definitions definitions, Engine engine) {
        this.definitions = definitions;
        this.engine = engine;
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
        Optional<DestinationDefinition> database = definitions.destination(design.database());
        if (database.isEmpty()) {
            problems.add("Choose the database in which it is done.");
            return;
        }
        if (!(engine.storeKind(database.get().store()) instanceof TransactingKind)) {
            problems.add(database.get().name() + " is no database in which several things can be done at once.");
            return;
        }
        TransactionCheck.problems(
                        design, engine.storeKind(database.get().store()).dialect(), definitions::tag)
                .forEach(each -> problems.add(
                        each.step() == TransactionCheck.WHOLE
                                ? each.sentence()
                                : "Step " + (each.step() + 1) + ": " + each.sentence()));
        consequences.addAll(TransactionCheck.advice(design));
        writers(design, pass, consequences);
    }

    private void writers(TransactionDefinition design, ReviewPass pass, List<String> consequences) {
        Set<TagRef> own = design.writes();
        pass.after().stream()
                .filter(TransactionDefinition.class::isInstance)
                .map(TransactionDefinition.class::cast)
                .filter(other -> !other.id().equals(design.id()))
                .forEach(other -> other.writes().stream()
                        .filter(own::contains)
                        .forEach(tag -> consequences.add(other.name() + " writes "
                                + definitions
                                        .tag(tag)
                                        .map(info -> info.fullName())
                                        .orElse(tag.address())
                                + " as well: the later one counts.")));
    }
}
