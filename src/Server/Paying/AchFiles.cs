using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Paying;
using SteadyLark.Formats.Ach;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Paying;

namespace SteadyLark.Server.Paying;

/// <summary>The ACH file of a batch of payments, for our bank.</summary>
public static class AchFiles
{
    /// <param name="now">In the company's time zone.</param>
    public static async Task<Outcome<string>> Of(NpgsqlConnection db, long batchId, LocalDateTime now)
    {
        var payments = (await VendorPaymentStore.OfBatch(db, batchId)).Where(p => p.Method == "ach").ToList();
        var banks = await RemitToStore.Banks(db, payments.Select(p => p.VendorId));
        var us = (await Business.Read(db))!;
        var problems = AchPayment.Refusals(
            us.Payment.TaxId is not null && us.Payment.Routing is not null,
            payments.Select(p => (p.Payee, banks.ContainsKey(p.VendorId))).ToList()
        );
        if (problems.Any)
        {
            return problems;
        }

        return NachaFile.Write(
            new AchSender(
                us.Name,
                us.Payment.TaxId!,
                us.Payment.BankName!,
                new BankAccount(us.Payment.Routing!, us.Payment.Account!, BankAccountType.Checking)
            ),
            payments
                .Select(p => new AchCredit(
                    p.Payee,
                    banks[p.VendorId],
                    (long)(p.Amount.Amount * 100),
                    $"{p.Id}",
                    $"BILLS {string.Join(' ', p.Bills.Select(b => b.Number))}"
                ))
                .ToList(),
            payments[0].PaidOn,
            now
        );
    }
}
