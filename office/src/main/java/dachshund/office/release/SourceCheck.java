package dachshund.office.release;

import dachshund.core.definition.SourceDefinition;
import dachshund.core.source.LinkKind;
import dachshund.core.tag.TagInfo;
import dachshund.engine.Engine;
import java.util.List;
import org.springframework.stereotype.Component;

/** Whether every tag that people described can be read as it is described: a formula, a register, a topic. */
@Component
class SourceCheck implements KindCheck<SourceDefinition> {

    private static final int MOST_NAMED = 5;

    private final Engine engine;

    SourceCheck(Engine engine) {
        this.engine = engine;
    }

    @Override
    public Class<SourceDefinition> type() {
        return SourceDefinition.class;
    }

    @Override
    public void check(SourceDefinition source, ReviewPass pass, List<String> consequences, List<String> problems) {
        LinkKind kind;
        try {
            kind = engine.sources().kind(source.link());
        } catch (IllegalArgumentException unknown) {
            problems.add(unknown.getMessage());
            return;
        }
        if (!kind.describes() || kind.browses()) {
            return;
        }
        int wrong = 0;
        for (TagInfo tag : source.tags()) {
            String problem = kind.tagProblem(tag);
            if (!problem.isEmpty() && ++wrong <= MOST_NAMED) {
                problems.add(tag.name() + ": " + problem);
            }
        }
        if (wrong > MOST_NAMED) {
            problems.add((wrong - MOST_NAMED) + " more tags cannot be used as they are described.");
        }
    }
}
