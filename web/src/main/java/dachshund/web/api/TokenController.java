package dachshund.web.api;

import dachshund.web.api.ApiTokens.Scope;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import java.security.Principal;
import java.util.Arrays;
import java.util.EnumSet;
import java.util.List;
import java.util.Set;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** The page of tokens; administrators only (held by the URL). */
@Needs(Right.MANAGE_KEYS)
@Controller
@RequestMapping("/plant/tokens")
class TokenController {

    private final ApiTokens tokens;

    TokenController(ApiTokens tokens) {
        this.tokens = tokens;
    }

    @Needs(Right.MANAGE_KEYS)
    @GetMapping
    String list(Model model) {
        model.addAttribute("tokens", tokens.all());
        model.addAttribute("scopes", Scope.values());
        return "api/tokens";
    }

    @PostMapping
    String make(
            @RequestParam String name,
            @RequestParam(name = "scope", required = false) List<String> scopes,
            Principal by,
            RedirectAttributes flash) {
        Set<Scope> granted = EnumSet.noneOf(Scope.class);
        Arrays.stream(Scope.values())
                .filter(scope -> scopes != null && scopes.contains(scope.id()))
                .forEach(granted::add);
        try {
            flash.addFlashAttribute("clear", tokens.make(name, granted, by.getName()));
        } catch (IllegalArgumentException problem) {
            flash.addFlashAttribute("problem", problem.getMessage());
        }
        return "redirect:/plant/tokens";
    }

    @PostMapping("/{id}/revoke")
    String revoke(@PathVariable long id, Principal by) {
        tokens.revoke(id, by.getName());
        return "redirect:/plant/tokens";
    }
}
