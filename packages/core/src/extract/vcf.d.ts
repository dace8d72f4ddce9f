declare module 'vcf' {
  namespace VCard {
    interface Property {
      valueOf(): string | undefined;
    }
  }
  class VCard {
    parse(text: string): VCard;
    get(name: string): VCard.Property | VCard.Property[] | undefined;
  }
  export default VCard;
}
