package dachshund.office.design;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DefinitionKind;
import dachshund.core.definition.Named;
import dachshund.core.definition.Sentences;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.formula.FormulaTag;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/**
 * A formula tag as a thing of the list. It is drafted and released as a part of the source that it stands in; listed, filed,
 * duplicated and removed by itself.
 *
 * @param id made of the source and the address, so that it stays the same over renames and goes into an address
 */
public record ListedFormula(String id, SourceDefinition source, TagInfo tag) implements Definition {

    /** Registered nowhere: nothing of this kind is stored. It stands behind the sources in a list sorted by kind. */
    public static final DefinitionKind<ListedFormula> KIND = new Kind();

    private static final int DIGITS = 16;

    public static ListedFormula of(SourceDefinition source, TagInfo tag) {
        return new ListedFormula(source.id() + "-" + digits(tag.address()), source, tag);
    }

    private static String digits(String address) {
        try {
            byte[] hash = MessageDigest.getInstance("SHA-256").digest(address.getBytes(StandardCharsets.UTF_8));
            return HexFormat.of().formatHex(hash).substring(0, DIGITS);
        } catch (NoSuchAlgorithmException impossible) {
            throw new IllegalStateException("Every Java has SHA-256.", impossible);
        }
    }

    public TagRef ref() {
        return new TagRef(source.id(), tag.address());
    }

    @Override
    public String name() {
        return tag.fullName();
    }

    @Override
    public String description() {
        return tag.description();
    }

    @Override
    public DefinitionKind<?> kind() {
        return KIND;
    }

    private static final class Kind extends DefinitionKind<ListedFormula> {

        Kind() {
            super(11, "FORMULA_TAG", "Formula tag", "formulaTag", ListedFormula.class);
        }

        @Override
        protected Set<String> things(ListedFormula formula) {
            return Set.of(formula.source().id());
        }

        @Override
        protected Set<TagRef> tags(ListedFormula formula) {
            try {
                return Set.copyOf(FormulaTag.of(formula.tag()).inputs().values());
            } catch (IllegalArgumentException unreadable) {
                return Set.of(); // its page and the review say so; the others are listed all the same
            }
        }

        @Override
        protected List<String> introduced(ListedFormula is, Named named) {
            return List.of();
        }

        @Override
        protected List<String> removed(ListedFormula was, Named named) {
            return List.of("It is computed no more; what was recorded of it stays.");
        }

        @Override
        protected void changed(ListedFormula was, ListedFormula is, Named named, Sentences sentences) {}

        @Override
        public Optional<ListedFormula> duplicate(ListedFormula of, String id, String name) {
            return Optional.empty();
        }
    }
}
