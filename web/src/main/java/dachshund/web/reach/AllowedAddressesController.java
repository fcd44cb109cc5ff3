package dachshund.web.reach;

import dachshund.office.reach.AllowedAddresses;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import java.security.Principal;
import java.util.List;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** The administrator's page of where connections may go. */
@Needs(Right.MANAGE_ADDRESSES)
@Controller
class AllowedAddressesController {

    private final AllowedAddresses addresses;

    AllowedAddressesController(AllowedAddresses addresses) {
        this.addresses = addresses;
    }

    @Needs(Right.MANAGE_ADDRESSES)
    @GetMapping("/people/addresses")
    String show(Model model) {
        model.addAttribute("list", addresses.list());
        return "people/addresses";
    }

    @PostMapping("/people/addresses")
    String change(
            @RequestParam String list,
            @RequestParam(defaultValue = "false") boolean anyway,
            Principal by,
            Model model,
            RedirectAttributes flash) {
        try {
            List<String> cutsOff = anyway ? List.of() : addresses.cutsOff(list);
            if (!cutsOff.isEmpty()) {
                model.addAttribute("list", list);
                model.addAttribute("cutsOff", cutsOff);
                return "people/addresses";
            }
            addresses.change(list, by.getName());
        } catch (IllegalArgumentException problem) {
            model.addAttribute("list", list);
            model.addAttribute("fieldProblem", problem.getMessage());
            return "people/addresses";
        }
        flash.addFlashAttribute(
                "said",
                list.isBlank()
                        ? "Connections may go everywhere."
                        : "From now on connections are made to these places only. Those that are open stay until they end.");
        return "redirect:/people/addresses";
    }
}
