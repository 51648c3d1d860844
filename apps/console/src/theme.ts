import type { GlobalThemeOverrides } from 'naive-ui';

const family = "'Atkinson Hyperlegible Next Variable', 'DejaVu Sans', sans-serif";

/** Paper and deep harbour blue-green; amber only for "somebody waits", red only for Stop and loss. */
export const lightTheme: GlobalThemeOverrides = {
  common: {
    fontFamily: family,
    fontSize: '15px',
    primaryColor: '#0f5560',
    primaryColorHover: '#0b444d',
    primaryColorPressed: '#08343b',
    primaryColorSuppl: '#0f5560',
    errorColor: '#b3261e',
    errorColorHover: '#98201a',
    errorColorPressed: '#7d1a15',
    bodyColor: '#faf6ec',
    textColorBase: '#1d2b2c',
    placeholderColor: '#5d6a69',
    borderRadius: '8px',
  },
  Empty: { textColor: '#4e5b5a' },
  Table: {
    thColor: '#f3ecdc',
    tdColor: '#fffdf7',
    borderColor: '#d8cfbb',
    tdTextColor: '#1d2b2c',
    thTextColor: '#4e5b5a',
  },
};
export const darkThemeOverrides: GlobalThemeOverrides = {
  common: {
    fontFamily: family,
    fontSize: '15px',
    primaryColor: '#7fc7cf',
    primaryColorHover: '#9ad6dc',
    primaryColorPressed: '#69b4bd',
    primaryColorSuppl: '#7fc7cf',
    errorColor: '#ff8a80',
    bodyColor: '#10201f',
    placeholderColor: '#9fb0ad',
    borderRadius: '8px',
  },
  Empty: { textColor: '#b3c2bd' },
  Table: {
    thColor: '#142422',
    tdColor: '#182b2a',
    borderColor: '#35504d',
    tdTextColor: '#e9efe9',
    thTextColor: '#b3c2bd',
  },
};
