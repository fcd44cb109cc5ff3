package dachshund.engine.kept;

import dachshund.core.source.LinkKind;
import dachshund.core.source.PlantLink;
import dachshund.core.source.SettingField;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagText;
import dachshund.engine.local.LocalStore;
import java.util.List;

/** Tags whose values Dachshund itself keeps: written from pages and programs, on disk, the same after a restart. */
public final class KeptKind implements LinkKind {

    public static final String ID = "kept";
    static final String FIRST = "first";

    private final LocalStore local;

    public KeptKind(LocalStore local) {
        this.local = local;
    }

    @Override
    public String id() {
        return ID;
    }

    @Override
    public String title() {
        return "Kept tags";
    }

    @Override
    public String purpose() {
        return "Values that Dachshund keeps itself: set points, targets, what people or programs enter. They outlive a restart.";
    }

    @Override
    public List<SettingField> settings() {
        return List.of();
    }

    @Override
    public List<SettingField> tagFields() {
        return List.of(
                SettingField.text(FIRST, "First value", "0", "")
                        .helped(
                                "What it is until somebody writes it; empty for none. The range is also the limit of what can be written."));
    }

    @Override
    public boolean browses() {
        return false;
    }

    @Override
    public boolean outside() {
        return false;
    }

    @Override
    public String tagProblem(TagInfo tag) {
        String first = tag.how().getOrDefault(FIRST, "");
        if (first.isBlank()) {
            return "";
        }
        try {
            Object value = TagText.read(tag.kind(), first);
            return tag.range().isPresent()
                            && value instanceof Number number
                            && !tag.range().get().contains(number.doubleValue())
                    ? "The first value lies outside the range "
                            + tag.range().get().words() + "."
                    : "";
        } catch (IllegalArgumentException problem) {
            return "The first value: " + problem.getMessage();
        }
    }

    @Override
    public TagInfo described(TagInfo tag) {
        return new TagInfo(
                tag.address(),
                tag.path(),
                tag.name(),
                tag.kind(),
                tag.unit(),
                tag.description(),
                true,
                tag.range(),
                tag.decimals(),
                tag.changesWithin(),
                tag.labels(),
                tag.how(),
                tag.original());
    }

    @Override
    public PlantLink open(Opening opening) {
        return new KeptLink(opening.source(), opening.clock(), local);
    }
}
