package dachshund.core.lineup;

import dachshund.core.definition.Follows;
import dachshund.core.transaction.Gathered;
import dachshund.core.transaction.OwnWords;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.transaction.TransactionDefinition.Made;
import dachshund.core.when.When;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Function;
import java.util.function.Supplier;
import java.util.stream.Collectors;

/**
 * A transaction's design rolled out over machines. Database, queries, brokers and folders are those of the original; tags are
 * the machine's own, and wherever steps name the original's machine, a line names its own.
 */
public final class TransactionLines extends LineUp<TransactionDefinition, Made> {

    private static final String GATHER = "gather ";
    private static final String STEP = "step ";

    private final Supplier<List<TransactionDefinition>> all;

    /** @param all the transactions that there are, by which lines find the one of their own machine that they are done after */
    public TransactionLines(Supplier<List<TransactionDefinition>> all) {
        super(TransactionDefinition.class);
        this.all = all;
    }

    /**
     * The transaction of a machine that is for it what another one is for another machine: the line of the same original, or the
     * original itself. Empty where there is none, or more than one.
     */
    private Optional<String> counterpart(String transaction, String equipment) {
        List<TransactionDefinition> there = all.get();
        Optional<String> original = there.stream()
                .filter(each -> each.id().equals(transaction))
                .map(TransactionLines::original)
                .findFirst();
        List<String> own = there.stream()
                .filter(each -> original.equals(Optional.of(original(each))))
                .filter(each -> !equipment.isEmpty() && each.equipment().equals(equipment))
                .map(TransactionDefinition::id)
                .toList();
        return own.size() == 1 ? Optional.of(own.get(0)) : Optional.empty();
    }

    private static String original(TransactionDefinition of) {
        return of.follows().map(Follows::original).orElse(of.id());
    }

    @Override
    public TransactionDefinition derived(TransactionDefinition original, TransactionDefinition line) {
        OwnWords words = new OwnWords(line.follows().orElseThrow().names());
        When.Swap swap = swap(
                line.follows().orElseThrow(),
                transaction -> counterpart(transaction, line.equipment()).orElse(""),
                words::in);
        Map<String, String> constants = line.follows().orElseThrow().constants();
        return line.withMade(new Made(
                original.whens().stream().map(when -> when.swapped(swap)).toList(),
                original.gate().map(swap::condition),
                original.gathers().stream().map(each -> each.swapped(swap)).toList(),
                original.database(),
                original.isolation(),
                original.mark(),
                original.steps().stream()
                        .flatMap(step -> step.swapped(swap, words).stream())
                        .map(step -> constant(step, constants))
                        .toList(),
                original.answer().swapped(swap, words),
                original.policy(),
                original.keys()));
    }

    private static Step constant(Step step, Map<String, String> constants) {
        return step instanceof Step.Compute compute && compute.isConstant() && constants.containsKey(step.name())
                ? compute.withConstant(constants.get(step.name()))
                : step;
    }

    @Override
    TransactionDefinition begun(
            TransactionDefinition original, String id, String name, String equipment, Map<String, String> tables) {
        return original.as(id, name).withEquipment(equipment);
    }

    @Override
    public Map<String, String> constants(TransactionDefinition design) {
        Map<String, String> constants = new LinkedHashMap<>();
        design.steps().stream()
                .filter(step -> step instanceof Step.Compute compute && compute.isConstant())
                .forEach(step -> constants.put(step.name(), ((Step.Compute) step).constant()));
        return constants;
    }

    @Override
    public Map<String, String> tables(TransactionDefinition design) {
        return Map.of();
    }

    @Override
    public TransactionDefinition withTable(TransactionDefinition design, String table) {
        return design;
    }

    @Override
    public boolean ownTables() {
        return false;
    }

    @Override
    Set<String> properties(TransactionDefinition design) {
        return new TreeSet<>(design.properties());
    }

    @Override
    public Collection<String> machines(TransactionDefinition design) {
        return List.of();
    }

    @Override
    List<Edit> edits(Made made, TransactionDefinition line) {
        List<Edit> edits = new ArrayList<>();
        Made is = line.made();
        differs(edits, made.whens(), is.whens(), "when", "its Whens");
        differs(edits, made.gate(), is.gate(), "gate", "its gate");
        named(edits, gathers(made.gathers()), gathers(is.gathers()), GATHER, "value ");
        differs(
                edits,
                List.of(made.database(), made.isolation(), made.mark()),
                List.of(is.database(), is.isolation(), is.mark()),
                "database",
                "its database, isolation or mark");
        Map<String, Step> was = steps(made.steps());
        Map<String, Step> now = steps(is.steps());
        named(edits, was, now, STEP, "step ");
        differs(edits, common(was, now), common(now, was), "order", "the order of its steps");
        differs(edits, made.answer(), is.answer(), "answer", "its answer");
        differs(edits, made.policy(), is.policy(), "bounds", "its bounds");
        differs(edits, made.keys(), is.keys(), "keys", "the keys of the ledger");
        return edits;
    }

    private static void differs(List<Edit> edits, Object was, Object is, String part, String words) {
        if (!was.equals(is)) {
            edits.add(new Edit(part, words));
        }
    }

    private static <T> void named(List<Edit> edits, Map<String, T> was, Map<String, T> is, String part, String words) {
        is.forEach((name, each) -> {
            if (!each.equals(was.get(name))) {
                edits.add(new Edit(part + name, words + name + (was.containsKey(name) ? "" : " added")));
            }
        });
        was.keySet().stream()
                .filter(name -> !is.containsKey(name))
                .forEach(name -> edits.add(new Edit(part + name, words + name + " removed")));
    }

    private static List<String> common(Map<String, ?> of, Map<String, ?> and) {
        return of.keySet().stream().filter(and::containsKey).toList();
    }

    private static Map<String, Gathered> gathers(List<Gathered> gathers) {
        return byName(gathers, Gathered::name);
    }

    private static Map<String, Step> steps(List<Step> steps) {
        return byName(steps, Step::name);
    }

    private static <T> Map<String, T> byName(List<T> all, Function<T, String> name) {
        return all.stream().collect(Collectors.toMap(name, Function.identity(), (a, b) -> a, LinkedHashMap::new));
    }

    @Override
    TransactionDefinition brought(TransactionDefinition fresh, TransactionDefinition line, Set<String> kept) {
        Made is = fresh.made();
        Made own = line.made();
        boolean database = kept.contains("database");
        return fresh.withMade(new Made(
                kept.contains("when") ? own.whens() : is.whens(),
                kept.contains("gate") ? own.gate() : is.gate(),
                merged(gathers(is.gathers()), gathers(own.gathers()), GATHER, kept, false),
                database ? own.database() : is.database(),
                database ? own.isolation() : is.isolation(),
                database ? own.mark() : is.mark(),
                merged(steps(is.steps()), steps(own.steps()), STEP, kept, kept.contains("order")),
                kept.contains("answer") ? own.answer() : is.answer(),
                kept.contains("bounds") ? own.policy() : is.policy(),
                kept.contains("keys") ? own.keys() : is.keys()));
    }

    /** @param ownOrder whether they stand in the order of the line, else of the original */
    private static <T> List<T> merged(
            Map<String, T> fresh, Map<String, T> own, String part, Set<String> kept, boolean ownOrder) {
        List<String> order = ownOrder
                ? inOrder(List.copyOf(own.keySet()), List.copyOf(fresh.keySet()))
                : inOrder(List.copyOf(fresh.keySet()), List.copyOf(own.keySet()));
        return order.stream()
                .flatMap(name -> Optional.ofNullable((kept.contains(part + name) ? own : fresh).get(name)).stream())
                .toList();
    }

    /** The first ones, and each of the others behind the one that it follows among its own. */
    private static List<String> inOrder(List<String> first, List<String> others) {
        Set<String> there = new LinkedHashSet<>(first);
        List<String> order = new ArrayList<>(first);
        int at = 0;
        for (String each : others) {
            if (there.add(each)) {
                order.add(at, each);
            }
            at = order.indexOf(each) + 1;
        }
        return order;
    }
}
