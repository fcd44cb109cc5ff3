package dachshund.office.transaction;

import dachshund.core.definition.Plant;
import dachshund.core.destination.StoreKind;
import dachshund.core.query.QueryDefinition;
import dachshund.core.sql.Dialect;
import dachshund.core.sql.StandardDialect;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.transaction.OnEquipment;
import dachshund.core.transaction.TransactionCheck;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import java.util.Optional;
import java.util.function.Supplier;
import org.springframework.stereotype.Component;

/** What the design of a transaction is checked against: what it names, as that is designed now. */
@Component
public class Surroundings {

    private final Definitions definitions;
    private final Engine engine;

    Surroundings(Definitions definitions, Engine engine) {
        this.definitions = definitions;
        this.engine = engine;
    }

    /** The kind of a destination; empty where there is none. */
    public Optional<StoreKind> store(String database) {
        return definitions.destination(database).map(each -> engine.storeKind(each.store()));
    }

    public Dialect dialect(String database) {
        return store(database).map(StoreKind::dialect).orElseGet(StandardDialect::new);
    }

    /** With the plant of now. */
    public TransactionCheck.Around now() {
        return on(definitions::plant);
    }

    public TransactionCheck.Around on(Supplier<Plant> plant) {
        return new TransactionCheck.Around() {
            @Override
            public Dialect dialect(String database) {
                return Surroundings.this.dialect(database);
            }

            @Override
            public Optional<TagInfo> tag(TagRef tag) {
                return definitions.tag(tag);
            }

            @Override
            public Optional<QueryDefinition> query(String id) {
                return definitions.find(QueryDefinition.class, id);
            }

            @Override
            public OnEquipment equipment(TransactionDefinition of) {
                return OnEquipment.of(of, plant.get());
            }
        };
    }
}
