import type { ThemeConfig } from "antd";

const FACE = '"Hanken Grotesk Variable", system-ui, sans-serif';

export const theme: ThemeConfig = {
  hashed: false,
  token: {
    colorPrimary: "#8A4F22",
    colorLink: "#8A4F22",
    colorText: "#23211D",
    colorTextSecondary: "#5F594F",
    colorTextDescription: "#5F594F",
    colorBgBase: "#FDFBF6",
    colorBgLayout: "#F5F1E8",
    colorBorder: "#CDBFA8",
    colorBorderSecondary: "#DDD3C2",
    colorError: "#8C2F1B",
    colorErrorBg: "#F7E5DC",
    colorErrorBorder: "#D9A48F",
    colorWarning: "#8A6412",
    colorSuccess: "#2F6F6B",
    colorInfo: "#2D4A73",
    borderRadius: 5,
    borderRadiusLG: 6,
    boxShadow: "0 2px 10px rgba(35, 33, 29, 0.12)",
    boxShadowSecondary: "0 2px 10px rgba(35, 33, 29, 0.14)",
    fontFamily: FACE,
    fontSize: 14,
    wireframe: false,
  },
  components: {
    Button: { primaryShadow: "none", defaultShadow: "none", fontWeight: 600 },
    Table: {
      headerBg: "#F5F1E8",
      rowHoverBg: "#F3EADC",
      cellPaddingBlockSM: 7,
      headerSortActiveBg: "#F5F1E8",
      headerSortHoverBg: "#F0E2CF",
      bodySortBg: "transparent",
      rowSelectedBg: "#F3E7D4",
      rowSelectedHoverBg: "#F0E2CF",
    },
    Progress: { defaultColor: "#8A4F22", remainingColor: "#E0D2BC" },
    Segmented: { itemSelectedBg: "#8A4F22", itemSelectedColor: "#FFFFFF", trackBg: "#EBE3D4" },
  },
};
