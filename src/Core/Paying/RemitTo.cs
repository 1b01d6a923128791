using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Paying;

public enum BankAccountType
{
    Checking,
    Savings,
}

/// <summary>A bank account in the United States.</summary>
/// <param name="Routing">The bank's routing number, nine digits.</param>
/// <param name="Account">4 to 17 digits, letters or hyphens (Nacha Operating Rules, Appendix Three: DFI account number).</param>
public sealed record BankAccount(string Routing, string Account, BankAccountType Type)
{
    /// <summary>As shown: <c>checking ending in 4417</c>.</summary>
    public string Masked =>
        $"{(Type == BankAccountType.Savings ? "savings" : "checking")} ending in {Account[^Math.Min(4, Account.Length)..]}";

    /// <summary>Whether a routing number's check digit is right: 3, 7 and 1 times its digits add up to a multiple of ten (ABA Key to Routing
    /// Numbers).</summary>
    /// <example>111000025 is right: 3+7+1+0+0+0+0+14+5 = 30.</example>
    public static bool IsRouting(string? routing) =>
        routing is { Length: 9 }
        && routing.All(char.IsAsciiDigit)
        && routing
            .Select(
                (c, i) =>
                    (c - '0')
                    * (i % 3) switch
                    {
                        0 => 3,
                        1 => 7,
                        _ => 1,
                    }
            )
            .Sum() % 10
            == 0
        && routing != "000000000";

    /// <summary>Checks a bank account as entered; null when none was.</summary>
    public static BankAccount? Check(string? routing, string? account, BankAccountType? type, Validation validation, string under = "")
    {
        var digits = validation.Text(routing, $"{under}routing", "The routing number", 9);
        var number = validation.Text(account, $"{under}account", "The account number", 17);
        if (digits is null && number is null)
        {
            return null;
        }

        if (!IsRouting(digits))
        {
            validation.Add(
                "routing",
                "A routing number has nine digits, and its last one must fit the others: check it.",
                $"{under}routing"
            );
        }

        if (number is null || number.Length < 4 || !number.All(c => char.IsAsciiLetterOrDigit(c) || c == '-'))
        {
            validation.Add("account", "An account number has 4 to 17 digits, letters or hyphens.", $"{under}account");
        }

        return validation.Ok ? new BankAccount(digits!, number!, type ?? BankAccountType.Checking) : null;
    }
}

/// <summary>A vendor's remit-to as entered.</summary>
/// <param name="Factor">The factor that has sent a notice of assignment; null when the vendor is paid itself.</param>
/// <param name="Address">Where checks go.</param>
/// <param name="Notice">The notice of assignment: its date and number.</param>
/// <param name="Email">Where remittance advice goes; the vendor's own address when null.</param>
public sealed record RemitToOrder(
    string? Factor,
    string? Address,
    string? Routing,
    string? Account,
    BankAccountType? Type,
    string? Notice,
    string? Email = null
);

/// <summary>Whom we pay for a vendor's bills, and where. After a factor's notice of assignment only a payment to the factor discharges the debt
/// (UCC 9-406(a)).</summary>
public sealed record RemitTo(string? Factor, string? Address, BankAccount? Bank, string? Notice, string? Email = null)
{
    /// <summary>Checks a remit-to as entered.</summary>
    /// <param name="isAddress">Whether a text is an email address.</param>
    public static RemitTo? Check(RemitToOrder order, Func<string, bool> isAddress, Validation validation)
    {
        var factor = validation.Text(order.Factor, "factor", "The factor", 120);
        var address = validation.Text(order.Address, "address", "The address", 300);
        var notice = validation.Text(order.Notice, "notice", "The notice of assignment", 200);
        var bank = BankAccount.Check(order.Routing, order.Account, order.Type, validation);
        if (factor is not null && notice is null)
        {
            validation.Add("missing", "Enter the date or number of the factor's notice of assignment.", "notice");
        }

        var email = validation.Text(order.Email, "email", "The email address", 200);
        if (email is not null && !isAddress(email))
        {
            validation.Add("email", $"“{email}” is not an email address: correct it, or leave it empty.", "email");
        }

        if (factor is null && address is null && bank is null && validation.Ok)
        {
            validation.Add("missing", "Enter an address for checks, or a bank account.", "address");
        }

        return validation.Ok ? new RemitTo(factor, address, bank, notice, email) : null;
    }
}

/// <summary>A change of a vendor's remit-to, which counts once another person has called the vendor back.</summary>
public enum RemitToState
{
    Proposed,
    Confirmed,
    Declined,
}

public static class RemitToChange
{
    /// <summary>Whether a proposed change may be confirmed: by another person than the one who entered it, with a note of the call to a number
    /// known before.</summary>
    /// <param name="twoPeople">The company's setting.</param>
    public static Problems Confirm(RemitToState state, long? proposedBy, long? user, string? callBack, bool twoPeople)
    {
        var validation = new Validation();
        if (state != RemitToState.Proposed)
        {
            validation.Add("remit.state", $"This change was already {(state == RemitToState.Confirmed ? "confirmed" : "declined")}.");
        }
        else if (twoPeople && proposedBy is not null && proposedBy == user)
        {
            validation.Add("remit.same.person", "You entered this change, so another person must confirm it.");
        }

        validation.Text(callBack, "callBack", "Whom you called, at which known number,", 400, required: true);
        return validation.Problems;
    }

    /// <summary>Why a proposed change cannot be declined; null when it can.</summary>
    public static Problem? DeclineRefusal(RemitToState state) =>
        state == RemitToState.Proposed
            ? null
            : new Problem("remit.state", $"This change was already {(state == RemitToState.Confirmed ? "confirmed" : "declined")}.");
}
