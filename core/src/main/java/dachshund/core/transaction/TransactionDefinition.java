package dachshund.core.transaction;

import com.fasterxml.jackson.annotation.JsonInclude;
import dachshund.core.definition.Follows;
import dachshund.core.definition.Repeatable;
import dachshund.core.tag.TagRef;
import dachshund.core.when.Condition;
import dachshund.core.when.When;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;
import java.util.stream.Stream;

/**
 * Ordered steps on a database and tags, done because something happened: all or nothing, with an answer to the plant.
 *
 * @param equipment id of the piece of equipment that it is about; empty for none
 * @param database id of the destination in whose one transaction the steps are
 * @param mark     whether a mark row goes with them, which makes each request be done once; without it, at most once
 * @param keys     names whose values the ledger finds a run by
 * @param follows  the line-up it belongs to
 */
public record TransactionDefinition(
        String id,
        String name,
        String description,
        String equipment,
        List<When> whens,
        Optional<Condition> gate,
        List<Gathered> gathers,
        String database,
        Isolation isolation,
        boolean mark,
        List<Step> steps,
        Answer answer,
        Policy policy,
        List<String> keys,
        @JsonInclude(JsonInclude.Include.NON_EMPTY) Optional<Follows<TransactionDefinition.Made>> follows)
        implements Repeatable<TransactionDefinition, TransactionDefinition.Made> {

    /** All that a line of a line-up has from its original. */
    public record Made(
            List<When> whens,
            Optional<Condition> gate,
            List<Gathered> gathers,
            String database,
            Isolation isolation,
            boolean mark,
            List<Step> steps,
            Answer answer,
            Policy policy,
            List<String> keys) {

        public Made {
            whens = List.copyOf(whens);
            gathers = List.copyOf(gathers);
            steps = List.copyOf(steps);
            keys = List.copyOf(keys);
        }
    }

    public TransactionDefinition {
        equipment = equipment == null ? "" : equipment; // designs of before knew none
        whens = List.copyOf(whens);
        gathers = List.copyOf(gathers);
        steps = List.copyOf(steps);
        keys = List.copyOf(keys);
        follows = follows == null ? Optional.empty() : follows; // they stood alone
    }

    /** In no line-up. */
    public TransactionDefinition(
            String id,
            String name,
            String description,
            String equipment,
            List<When> whens,
            Optional<Condition> gate,
            List<Gathered> gathers,
            String database,
            Isolation isolation,
            boolean mark,
            List<Step> steps,
            Answer answer,
            Policy policy,
            List<String> keys) {
        this(
                id,
                name,
                description,
                equipment,
                whens,
                gate,
                gathers,
                database,
                isolation,
                mark,
                steps,
                answer,
                policy,
                keys,
                Optional.empty());
    }

    /** About no piece of equipment. */
    public TransactionDefinition(
            String id,
            String name,
            String description,
            List<When> whens,
            Optional<Condition> gate,
            List<Gathered> gathers,
            String database,
            Isolation isolation,
            boolean mark,
            List<Step> steps,
            Answer answer,
            Policy policy,
            List<String> keys) {
        this(id, name, description, "", whens, gate, gathers, database, isolation, mark, steps, answer, policy, keys);
    }

    /** What a new one begins with. */
    public static TransactionDefinition begun(String id, String name, String database) {
        return new TransactionDefinition(
                id,
                name,
                "",
                "",
                List.of(),
                Optional.empty(),
                List.of(),
                database,
                Isolation.READ_COMMITTED,
                true,
                List.of(),
                Answer.NONE,
                Policy.USUAL,
                List.of());
    }

    /** The request that it answers; empty where the plant does not ask by a number. */
    public Optional<When.OnRequest> request() {
        return whens.stream()
                .filter(When.OnRequest.class::isInstance)
                .map(When.OnRequest.class::cast)
                .findFirst();
    }

    /** The database whose rows a step changes, by id; its own where it changes none. */
    public String changed(Step step) {
        return !step.changes() || step.in().isEmpty() ? database : step.in();
    }

    /** Ids of the transactions after which it is done. */
    public List<String> after() {
        return whens.stream()
                .filter(When.AfterTransaction.class::isInstance)
                .map(each -> ((When.AfterTransaction) each).transaction())
                .filter(each -> !each.isEmpty())
                .toList();
    }

    /** The tables for whose new rows it is done. */
    public List<When.OnNewRow> newRows() {
        return whens.stream()
                .filter(When.OnNewRow.class::isInstance)
                .map(When.OnNewRow.class::cast)
                .toList();
    }

    /** The other database in which it changes rows; empty for none. */
    public Optional<String> other() {
        return steps.stream()
                .filter(step -> step.changes() && !step.in().isEmpty())
                .map(Step::in)
                .findFirst();
    }

    /** The tags that are read when it fires: those of the request, then those that are gathered. */
    public List<TagRef> reads() {
        Set<TagRef> all = new LinkedHashSet<>();
        request().ifPresent(each -> {
            all.add(each.number());
            each.epoch().ifPresent(all::add);
        });
        gathers.stream().filter(each -> each.over().isEmpty() && each.hasTag()).forEach(each -> all.add(each.tag()));
        return List.copyOf(all);
    }

    /** Tags whose history is read: it has to be kept. */
    public Set<TagRef> histories() {
        Set<TagRef> all = new LinkedHashSet<>();
        gathers.forEach(each -> each.over().ifPresent(over -> {
            if (each.hasTag()) {
                all.add(each.tag());
            }
            over.marker().ifPresent(all::add);
        }));
        return all;
    }

    /** Those of its steps, and the answer's. */
    @Override
    public Set<TagRef> writes() {
        Set<TagRef> all = new LinkedHashSet<>();
        steps.stream()
                .filter(Step.WriteTag.class::isInstance)
                .map(Step.WriteTag.class::cast)
                .forEach(each -> all.add(each.tag()));
        answer.tags().forEach(all::add);
        request().flatMap(When.OnRequest::answered).ifPresent(all::add);
        return all;
    }

    @Override
    public List<TagRef> everyTag() {
        return Stream.of(
                        gathers.stream().filter(Gathered::hasTag).map(Gathered::tag),
                        whens.stream().flatMap(when -> when.tags().stream()),
                        gate.stream().flatMap(each -> each.inputs().values().stream()),
                        histories().stream(),
                        writes().stream())
                .flatMap(each -> each)
                .distinct()
                .toList();
    }

    @Override
    public Map<String, TagRef> named() {
        Map<String, TagRef> all = new LinkedHashMap<>();
        gathers.stream()
                .filter(each -> each.over().isEmpty() && each.hasTag())
                .forEach(each -> all.put(each.name(), each.tag()));
        return all;
    }

    @Override
    public String deed() {
        return "it is done";
    }

    public Optional<Step> step(String called) {
        return steps.stream()
                .filter(each -> each.name().equalsIgnoreCase(called))
                .findFirst();
    }

    /** The names that a step can use: what the run knows, gathered tags, and what steps before it are sure to give. */
    public List<String> namesBefore(int step) {
        List<String> all = new ArrayList<>(Known.ALL);
        gathers.forEach(each -> {
            all.add(each.name());
            each.over().ifPresent(over -> all.add(each.name() + Gathered.SINCE));
        });
        steps.subList(0, Math.min(step, steps.size())).forEach(each -> {
            if (each instanceof Step.Compute) {
                all.add(each.name());
            } else if (each instanceof Step.LookUp || each instanceof Step.Put || each instanceof Step.Statement) {
                all.add(each.name() + "_rows");
            }
        });
        return all;
    }

    /** Names of the properties of its equipment that it gathers. */
    public List<String> properties() {
        return gathers.stream()
                .map(Gathered::property)
                .filter(each -> !each.isEmpty())
                .distinct()
                .toList();
    }

    /** Its parts, while some of them are changed. */
    private static final class Parts {
        private String name;
        private String description;
        private String equipment;
        private Optional<Follows<Made>> follows;
        private List<When> whens;
        private Optional<Condition> gate;
        private List<Gathered> gathers;
        private String database;
        private Isolation isolation;
        private boolean mark;
        private List<Step> steps;
        private Answer answer;
        private Policy policy;
        private List<String> keys;

        Parts(TransactionDefinition of) {
            name = of.name;
            description = of.description;
            equipment = of.equipment;
            follows = of.follows;
            take(of.made());
        }

        void take(Made made) {
            whens = made.whens();
            gate = made.gate();
            gathers = made.gathers();
            database = made.database();
            isolation = made.isolation();
            mark = made.mark();
            steps = made.steps();
            answer = made.answer();
            policy = made.policy();
            keys = made.keys();
        }
    }

    private TransactionDefinition with(Consumer<Parts> change) {
        Parts parts = new Parts(this);
        change.accept(parts);
        return new TransactionDefinition(
                id,
                parts.name,
                parts.description,
                parts.equipment,
                parts.whens,
                parts.gate,
                parts.gathers,
                parts.database,
                parts.isolation,
                parts.mark,
                parts.steps,
                parts.answer,
                parts.policy,
                parts.keys,
                parts.follows);
    }

    @Override
    public Made made() {
        return new Made(whens, gate, gathers, database, isolation, mark, steps, answer, policy, keys);
    }

    /** With all that an original makes of it. */
    public TransactionDefinition withMade(Made other) {
        return with(parts -> parts.take(other));
    }

    /** The same under another id, in no line-up. */
    public TransactionDefinition as(String otherId, String otherName) {
        return new TransactionDefinition(
                otherId,
                otherName,
                description,
                equipment,
                whens,
                gate,
                gathers,
                database,
                isolation,
                mark,
                steps,
                answer,
                policy,
                keys);
    }

    @Override
    public TransactionDefinition withName(String other) {
        return with(parts -> parts.name = other);
    }

    public TransactionDefinition withAbout(String otherName, String otherDescription) {
        return with(parts -> {
            parts.name = otherName;
            parts.description = otherDescription;
        });
    }

    @Override
    public TransactionDefinition withEquipment(String other) {
        return with(parts -> parts.equipment = other);
    }

    @Override
    public TransactionDefinition withFollows(Optional<Follows<Made>> other) {
        return with(parts -> parts.follows = other);
    }

    @Override
    public TransactionDefinition withWhens(List<When> other) {
        return with(parts -> parts.whens = other);
    }

    @Override
    public TransactionDefinition withGate(Optional<Condition> other) {
        return with(parts -> parts.gate = other);
    }

    public TransactionDefinition withGathers(List<Gathered> other) {
        return with(parts -> parts.gathers = other);
    }

    public TransactionDefinition withDatabase(String other, Isolation level, boolean marked) {
        return with(parts -> {
            parts.database = other;
            parts.isolation = level;
            parts.mark = marked;
        });
    }

    public TransactionDefinition withSteps(List<Step> other) {
        return with(parts -> parts.steps = other);
    }

    public TransactionDefinition withAnswer(Answer other) {
        return with(parts -> parts.answer = other);
    }

    public TransactionDefinition withPolicy(Policy other, List<String> otherKeys) {
        return with(parts -> {
            parts.policy = other;
            parts.keys = otherKeys;
        });
    }
}
