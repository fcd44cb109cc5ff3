package dachshund.office.lineup;

import dachshund.core.definition.Definition;
import dachshund.core.definition.Repeatable;
import dachshund.core.lineup.LineUp;
import dachshund.core.lineup.RecorderLines;
import dachshund.core.lineup.TransactionLines;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.tag.TagFinder;
import java.util.List;
import java.util.Optional;
import org.springframework.stereotype.Component;

/** The line-ups of all kinds of designs that can be repeated for other machines. */
@Component
public class LineUps {

    private final Definitions definitions;
    private final Drafts drafts;
    private final TagFinder finder;
    private final LineList list;
    private final List<LineUp<?, ?>> kinds;

    LineUps(Definitions definitions, Drafts drafts, TagFinder finder, LineList list) {
        this.definitions = definitions;
        this.drafts = drafts;
        this.finder = finder;
        this.list = list;
        this.kinds =
                List.of(new RecorderLines(), new TransactionLines(() -> definitions.all(TransactionDefinition.class)));
    }

    /** That of a design; empty where there is none with this id, or one that cannot be repeated. */
    public Optional<OneLineUp<?, ?>> of(String id) {
        return definitions.find(id).flatMap(found -> kinds.stream()
                .filter(kind -> kind.type().isInstance(found))
                .findFirst()
                .map(kind -> one(kind, found)));
    }

    private <D extends Repeatable<D, M>, M> OneLineUp<D, M> one(LineUp<D, M> kind, Definition original) {
        return new OneLineUp<>(kind, kind.type().cast(original), definitions, drafts, finder, list);
    }

    /** How many designs follow one. */
    public long followers(String id) {
        return of(id).map(each -> each.lines().size()).orElse(0);
    }
}
