package dachshund.web.when;

import dachshund.core.definition.Driven;
import java.util.function.UnaryOperator;
import org.springframework.ui.Model;

/** The page of something that Whens drive, as edits of its Whens need it. */
public interface DrivenPage<D extends Driven> {

    Class<D> type();

    /** Drafts a change and shows the design as it then is. */
    String change(String id, int seen, String by, Model model, UnaryOperator<D> change);

    /** Shows the design as it was, with a sentence at a field. */
    String refuse(String id, Model model, String field, String problem, String typed);

    /** A change that says nothing of its kind, and gives back what it got. */
    default String changed(String id, int seen, String by, Model model, UnaryOperator<Driven> change) {
        return change(id, seen, by, model, each -> type().cast(change.apply(each)));
    }
}
