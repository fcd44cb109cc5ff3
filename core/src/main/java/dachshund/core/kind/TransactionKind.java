package dachshund.core.kind;

import dachshund.core.definition.DefinitionKind;
import dachshund.core.definition.Named;
import dachshund.core.definition.Sentences;
import dachshund.core.tag.TagRef;
import dachshund.core.time.PeriodText;
import dachshund.core.transaction.Answer;
import dachshund.core.transaction.Gathered;
import dachshund.core.transaction.Over;
import dachshund.core.transaction.Policy;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.StepWords;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.when.Condition;
import dachshund.core.when.When;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/** Transactions, as the general parts know them. */
public final class TransactionKind extends DefinitionKind<TransactionDefinition> {

    public TransactionKind() {
        super(85, "TRANSACTION", "Transaction", "transaction", TransactionDefinition.class);
    }

    @Override
    protected Set<String> things(TransactionDefinition transaction) {
        Set<String> things = new HashSet<>();
        things.add(transaction.database());
        things.add(transaction.equipment());
        transaction.follows().ifPresent(follows -> things.add(follows.original()));
        transaction.whens().forEach(when -> things.addAll(when.things()));
        transaction.steps().forEach(step -> {
            things.add(step.in());
            if (step instanceof Step.LookUp lookUp) {
                things.add(lookUp.query());
            }
            if (step instanceof Step.Publish publish) {
                things.add(publish.source());
            }
            if (step instanceof Step.Append append) {
                things.add(append.destination());
            }
        });
        things.remove("");
        return things;
    }

    @Override
    protected Set<TagRef> tags(TransactionDefinition transaction) {
        return Set.copyOf(transaction.everyTag());
    }

    @Override
    protected Map<Class<?>, Map<String, Class<?>>> choices() {
        return Map.of(Step.class, Step.DOCUMENTS);
    }

    @Override
    protected List<String> introduced(TransactionDefinition is, Named named) {
        List<String> sentences = new ArrayList<>();
        sentences.add("Is done " + whens(is, named) + ", in one transaction of " + database(is, named) + ", "
                + is.isolation().words() + (is.mark() ? ", with a mark row." : ", without a mark row: at most once."));
        is.gate().ifPresent(gate -> sentences.add("Gate: only while " + gate.text() + "."));
        if (!is.equipment().isEmpty()) {
            sentences.add("Is about " + named.name(is.equipment()) + ".");
        }
        LineUpDifferences.introduced(is.follows(), named, sentences);
        if (!is.histories().isEmpty() || !is.properties().isEmpty()) {
            sentences.add("Gathers " + gathers(is, named) + ".");
        }
        is.steps().forEach(step -> sentences.add(step(step, named)));
        sentences.add(answer(is, named));
        return sentences;
    }

    @Override
    protected List<String> removed(TransactionDefinition was, Named named) {
        return List.of("Is not done any more; the plant gets no answer from it. What it wrote stays.");
    }

    @Override
    protected void changed(TransactionDefinition was, TransactionDefinition is, Named named, Sentences sentences) {
        sentences.compare("Equipment", equipment(was, named), equipment(is, named));
        sentences.compare("When", whens(was, named), whens(is, named));
        if (whens(was, named).equals(whens(is, named)) && !was.whens().equals(is.whens())) {
            sentences.add("The tags that its When looks at change.");
        }
        sentences.compare("Gate", gate(was), gate(is));
        sentences.compare("Gathers", gathers(was, named), gathers(is, named));
        sentences.compare("Database", database(was, named), database(is, named));
        sentences.compare("Isolation", was.isolation().words(), is.isolation().words());
        if (was.mark() != is.mark()) {
            sentences.add(
                    is.mark()
                            ? "A mark row goes with it from now on: each request is done once."
                            : "No mark row goes with it any more: each request is done at most once, and one of which nobody knows waits for a person.");
        }
        steps(was, is, named, sentences);
        sentences.compare("Answer", answer(was, named), answer(is, named));
        LineUpDifferences.changed(was.follows(), is.follows(), named, sentences);
        sentences.compare("Bounds", policy(was.policy()), policy(is.policy()));
        if (is.mark() && was.policy().keepMarks() != is.policy().keepMarks()) {
            sentences.compare("Its marks stay", marks(was.policy()), marks(is.policy()));
        }
        sentences.compare("Keys of the ledger", String.join(", ", was.keys()), String.join(", ", is.keys()));
    }

    private static void steps(TransactionDefinition was, TransactionDefinition is, Named named, Sentences sentences) {
        for (Step step : is.steps()) {
            Optional<Step> before = was.step(step.name());
            if (before.isEmpty()) {
                sentences.add("New step: " + step(step, named));
            } else if (!before.get().equals(step)) {
                sentences.compare("Step " + step.name(), step(before.get(), named), step(step, named));
            }
        }
        was.steps().stream()
                .filter(step -> is.step(step.name()).isEmpty())
                .forEach(step -> sentences.add("No step " + step.name() + " any more."));
        List<String> order = names(was).stream().filter(names(is)::contains).toList();
        if (!order.equals(names(is).stream().filter(names(was)::contains).toList())) {
            sentences.add("Its steps are in another order: " + String.join(", ", names(is)) + ".");
        }
    }

    private static String database(TransactionDefinition transaction, Named named) {
        return transaction.database().isEmpty() ? "no database yet" : named.name(transaction.database());
    }

    private static List<String> names(TransactionDefinition transaction) {
        return transaction.steps().stream().map(Step::name).toList();
    }

    private static String step(Step step, Named named) {
        return StepWords.of(step, named) + ".";
    }

    private static String whens(TransactionDefinition transaction, Named named) {
        return transaction.whens().isEmpty()
                ? "by hand"
                : transaction.whens().stream()
                        .map(when -> when.sentence(named::name))
                        .collect(Collectors.joining(" and "));
    }

    private static String gate(TransactionDefinition transaction) {
        return transaction.gate().map(Condition::text).orElse("");
    }

    private static String gathers(TransactionDefinition transaction, Named named) {
        return transaction.gathers().stream()
                .map(each -> each.name() + " = "
                        + each.over().map(over -> over(over, named) + " of ").orElse("")
                        + source(each, named)
                        + " (bad: " + each.bad().words() + ")")
                .collect(Collectors.joining(", "));
    }

    private static String source(Gathered each, Named named) {
        return each.isGiven()
                ? "given by who asks"
                : each.property().isEmpty() ? named.tag(each.tag()) : each.property() + " of its equipment";
    }

    private static String equipment(TransactionDefinition transaction, Named named) {
        return transaction.equipment().isEmpty() ? "none" : named.name(transaction.equipment());
    }

    private static String over(Over over, Named named) {
        return over.marker()
                .map(tag -> over.sentence().replace("this tag", named.tag(tag)))
                .orElse(over.sentence());
    }

    private static String answer(TransactionDefinition transaction, Named named) {
        Answer answer = transaction.answer();
        Optional<TagRef> echo = transaction.request().flatMap(When.OnRequest::answered);
        if (echo.isEmpty() && answer.tags().findAny().isEmpty()) {
            return "The plant gets no answer.";
        }
        return "Answers with " + answer.done() + ", " + answer.but() + " or " + answer.failed()
                + answer.code().map(tag -> " in " + named.tag(tag)).orElse("")
                + answer.text().map(tag -> ", a text in " + named.tag(tag)).orElse("")
                + (answer.doneText().isEmpty() ? "" : " (" + answer.doneText() + ")")
                + echo.map(tag -> ", then the number in " + named.tag(tag)).orElse("") + ".";
    }

    private static String policy(Policy policy) {
        return PeriodText.write(policy.limit()) + " a run, " + policy.retries() + " further tries with "
                + words(policy.pause()) + " between, tags read " + words(policy.settle()) + " after the trigger, "
                + policy.parallel() + " at once, " + policy.waiting() + " waiting, stops after " + policy.stopAfter()
                + " failures" + (policy.hold() ? ", holds what fails for a passing reason and does it later" : "")
                + (policy.apart() ? ", one at a time among those of its equipment that say so" : "");
    }

    private static String marks(Policy policy) {
        return policy.keepMarks() == 0 ? "for ever" : policy.keepMarks() + " days";
    }

    private static String words(java.time.Duration length) {
        return length.isZero() ? "0 s" : PeriodText.write(length);
    }

    /** It would answer the same requests: its tags of the request and the answer stay, and a person has to choose others. */
    @Override
    public Optional<TransactionDefinition> duplicate(TransactionDefinition of, String id, String name) {
        return Optional.of(of.as(id, name));
    }
}
