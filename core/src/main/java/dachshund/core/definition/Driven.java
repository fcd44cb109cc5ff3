package dachshund.core.definition;

import dachshund.core.tag.TagRef;
import dachshund.core.when.Condition;
import dachshund.core.when.When;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** A definition whose work Whens and a gate bring about. */
public interface Driven extends Definition {

    List<When> whens();

    /** Must be true for it to be done; shut while it is unknown. */
    Optional<Condition> gate();

    /** Every tag that it looks at anywhere, each once: among them a When chooses. */
    List<TagRef> everyTag();

    /** The tags that conditions may speak of without more ado, by name. */
    Map<String, TagRef> named();

    /** The tags that it writes. */
    Set<TagRef> writes();

    /** What a When makes happen, to stand in a sentence. */
    String deed();

    Driven withWhens(List<When> other);

    Driven withGate(Optional<Condition> other);
}
