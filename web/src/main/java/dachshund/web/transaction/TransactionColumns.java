package dachshund.web.transaction;

import dachshund.core.definition.Definition;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.engine.Engine;
import dachshund.engine.transaction.TransactionStatus;
import dachshund.office.definition.Definitions;
import dachshund.web.design.OwnColumns;
import java.util.List;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.springframework.stereotype.Component;

/** Transactions in their list. */
@Component
class TransactionColumns implements OwnColumns {

    private final Definitions definitions;
    private final Engine engine;

    TransactionColumns(Definitions definitions, Engine engine) {
        this.definitions = definitions;
        this.engine = engine;
    }

    @Override
    public String kind() {
        return "TRANSACTION";
    }

    @Override
    public String page() {
        return "/records/transactions";
    }

    @Override
    public List<Head> heads() {
        return List.of(
                new Head("When", false), new Head("In", false), new Head("Steps", true), new Head("At work", false));
    }

    @Override
    public Function<Definition, List<Cell>> cells() {
        return thing -> {
            TransactionDefinition design = (TransactionDefinition) thing;
            String whens = design.whens().stream()
                    .map(when -> when.sentence(this::name))
                    .collect(Collectors.joining(" and "));
            return List.of(
                    Cell.of(whens.isEmpty() ? "by hand" : whens),
                    Cell.of(definitions
                            .find(design.database())
                            .map(Definition::name)
                            .orElse("no database yet")),
                    Cell.number(Integer.toString(design.steps().size())),
                    Cell.quiet(engine.transactions()
                            .status(design.id())
                            .map(TransactionColumns::words)
                            .orElse("not released yet")));
        };
    }

    private String name(String id) {
        return definitions.find(id).map(Definition::name).orElse("something that is not there");
    }

    private static String words(TransactionStatus status) {
        return status.state().name().equals("RECORDING")
                ? "At work"
                : status.state().words();
    }
}
